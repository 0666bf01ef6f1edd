"""Swatch cards as jobs: opened, changed, and described."""

from typing import Any

from django.utils import timezone

from engraving.cards import KINDS, card_job, lay_out, starting_card
from engraving.errors import InputError
from engraving.spec import JobSpec, MachinePart, PlacePart, SubstratePart
from workshop.jobs.models import Job
from workshop.jobs.services.engine import pipeline
from workshop.jobs.services.revisions import updated
from workshop.jobs.services.stations.card import card_of, relaid
from workshop.jobs.services.tickets import centre_on_bed, open_described, with_recipe
from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shelf.services import recipe_part


def open_card(
    kind: str, machine: Machine, substrate: Substrate, recipe: Recipe | None = None
) -> Job:
    """Open a ticket for a swatch card.

    With a recipe, what is not on the card's sides is its, and the ranges lie
    round it.

    Raises
    ------
    InputError
        When the machine has no beam, or the card makes no job.
    """
    part = MachinePart.model_validate(machine.part)
    if part.touches:
        raise InputError(f"{machine} marks without a beam; these cards need one.")
    found = recipe or Recipe.objects.fitting(machine.pk, substrate.pk).first()
    spec = JobSpec(
        name=f"{KINDS[kind].label}, {substrate}"[:200],
        machine=part,
        substrate=SubstratePart.model_validate(substrate.part),
        place=PlacePart(x_mm=0, y_mm=0),
    )
    spec = updated(spec, {"size": {"pitch_mm": part.spot_mm}})
    if found:
        spec = with_recipe(spec, found)
    card = starting_card(kind, spec.machine, recipe_part(found) if found else None)
    day = timezone.localdate().isoformat()
    spec = spec.model_copy(update={"card": card.model_copy(update={"day": day})})
    spec, artwork = relaid(centre_on_bed(card_job(spec)))
    relations = {"machine": machine.pk, "substrate": substrate.pk,
                 "recipe": found.pk if found else None}  # fmt: skip
    return open_described(artwork, spec, relations)


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


def last_used() -> dict[str, int | None]:
    """Return machine and substrate of the newest ticket, to begin with."""
    last = Job.objects.order_by("-number").first()
    return {"machine": last.machine_id, "substrate": last.substrate_id} if last else {}
