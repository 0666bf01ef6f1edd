"""What a swatch card shows beside its fields."""

from dataclasses import dataclass

from engraving.cards import KINDS, KindOfCard, lay_out
from engraving.jobspec import JobSpec
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.stations.card.changes import card_of


@dataclass(frozen=True)
class CardFacts:
    """A swatch card as laid out, in mm."""

    kind: KindOfCard
    name: str
    width: float
    height: float
    cells: int
    columns: tuple[str, ...]
    rows: tuple[str, ...]
    seconds: float
    bounds: tuple[float, float]


def card_facts(spec: JobSpec) -> CardFacts:
    """Return what the card's station shows beside its fields."""
    layout, card = lay_out(spec), card_of(spec)
    return CardFacts(
        kind=KINDS[card.kind],
        name=card.kind,
        width=layout.width_mm,
        height=layout.height_mm,
        cells=len(layout.cells),
        columns=layout.column_texts,
        rows=layout.row_texts,
        seconds=pipeline().estimate(spec).seconds,
        bounds=(spec.machine.bed_width_mm, spec.machine.bed_height_mm),
    )


def card_result(spec: JobSpec) -> str:
    """Return the card's line on the ticket."""
    layout = lay_out(spec)
    return f"{KINDS[card_of(spec).kind].label}, {layout.columns} × {layout.rows} cells"
