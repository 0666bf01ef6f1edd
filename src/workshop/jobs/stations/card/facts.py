"""What a swatch card shows beside its fields."""

from typing import Any

from engraving.cards import KINDS, lay_out
from engraving.jobspec import JobSpec
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.stations.card.changes import card_of


def card_facts(spec: JobSpec) -> dict[str, Any]:
    """Return what the card's station shows beside its fields."""
    layout, card = lay_out(spec), card_of(spec)
    return {
        "kind": KINDS[card.kind],
        "name": card.kind,
        "width": layout.width_mm,
        "height": layout.height_mm,
        "cells": len(layout.cells),
        "columns": layout.column_texts,
        "rows": layout.row_texts,
        "seconds": pipeline().estimate(spec).seconds,
        "bounds": (spec.machine.bed_width_mm, spec.machine.bed_height_mm),
    }


def card_result(spec: JobSpec) -> str:
    """Return the card's line on the ticket."""
    layout = lay_out(spec)
    return f"{KINDS[card_of(spec).kind].label}, {layout.columns} × {layout.rows} cells"
