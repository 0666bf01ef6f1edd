"""The station that says what is on a swatch card, where artwork else stands."""

import io
from typing import Any

import numpy as np
from PIL import Image

from engraving.cards import KINDS, card_job, likeness, starting_card
from engraving.dots.power import FULL
from engraving.errors import InputError
from engraving.jobspec import MOST_PASSES, ArtworkPart, BlankPart, CardPart, JobSpec
from engraving.units import png_density
from workshop.jobs.models import Artwork, Job
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.edit import Edit

_MARGIN_MM = 4.0


def relaid(spec: JobSpec) -> tuple[JobSpec, Artwork]:
    """Return a card's job laid out anew, and the drawing that stands for its artwork."""
    spec = card_job(spec)
    drawn = likeness(spec).power
    if drawn is None:
        raise InputError("This card has nothing to burn.")
    # By its root, or cells that mark well would hardly show beside the strongest.
    dark = 255 - np.rint(255 * np.sqrt(drawn / FULL)).astype(np.uint8)
    codes = dark if spec.burns_dark else 255 - dark
    stream = io.BytesIO()
    Image.fromarray(codes).save(stream, "PNG", dpi=png_density(spec.size.cell_mm))
    artwork = keep_artwork(
        f"{KINDS[card_of(spec).kind].label} card.png", [stream.getvalue()]
    )
    part = ArtworkPart(
        file=artwork.name,
        sha256=artwork.sha256,
        width_px=artwork.width_px,
        height_px=artwork.height_px,
    )
    scrap = BlankPart(
        name="Scrap",
        width_mm=spec.size.width_mm + 2 * _MARGIN_MM,
        height_mm=spec.size.height_mm + 2 * _MARGIN_MM,
    )
    return spec.model_copy(update={"artwork": part, "blank": scrap}), artwork


def card_of(spec: JobSpec) -> CardPart:
    """Return a job's card; refuse a job without one."""
    if spec.card is None:
        raise InputError("This job burns no card.")
    return spec.card


def show_card(spec: JobSpec, job: Job) -> dict[str, Any]:
    """Return what the card's fields show."""
    card = card_of(spec)
    values: dict[str, Any] = {
        "name": spec.name,
        "customer": job.customer,
        "kind": card.kind,
    }
    for side in ("columns", "rows"):
        axis = getattr(card, side)
        for name in ("first", "last", "count", "even"):
            values[f"{side}_{name}"] = getattr(axis, name)
    return values | {
        "methods": list(card.methods),
        "cell": card.cell_mm,
        "gap": card.gap_mm,
        "title": card.title,
        "day": card.day,
        "label_speed": card.label_speed_mm_s,
        "label_power": card.label_power,
        "tilted": card.tilted_mm,
    }


_PLAIN = {
    "methods": "methods",
    "cell": "cell_mm",
    "gap": "gap_mm",
    "title": "title",
    "day": "day",
    "label_speed": "label_speed_mm_s",
    "label_power": "label_power",
    "tilted": "tilted_mm",
}


def apply_card(edit: Edit) -> None:
    """Apply what was changed on a card; another kind begins with its own ranges."""
    card, changes = card_of(edit.spec), edit.changes
    if edit.has("kind") and changes["kind"] != card.kind:
        fresh = starting_card(changes["kind"], edit.spec.machine)
        keep = {"day": card.day, "title": card.title}
        card = fresh.model_copy(update=keep)
        changes = {name: changes[name] for name in ("title", "day") if name in changes}
    data = card.model_dump(mode="json")
    for side in ("columns", "rows"):
        for name in ("first", "last", "count", "even"):
            if f"{side}_{name}" in changes:
                data[side][name] = changes[f"{side}_{name}"]
    for name, field in _PLAIN.items():
        if name in changes:
            data[field] = changes[name]
    _hold_range(data)
    edit.spec = updated(edit.spec, {"card": data})


def _hold_range(data: dict[str, Any]) -> None:
    """Refuse what no machine can be told: a power over 100 %, a speed or pitch of 0."""
    kind = KINDS[data["kind"]]
    for side, says in (("columns", kind.columns), ("rows", kind.rows)):
        ends = data[side]["first"], data[side]["last"]
        if says.endswith("%") and not all(0 <= end <= 100 for end in ends):
            raise InputError(
                f"{says.split(',')[0]} runs from 0 to 100 %.", field=f"{side}_last"
            )
        if says == "Passes" and max(ends) > MOST_PASSES:
            raise InputError(f"{MOST_PASSES} passes are the most.", field=f"{side}_last")
        if (
            says.startswith(
                ("Speed", "Row pitch", "dpi", "Length", "Passes", "Depth", "Feed")
            )
            and min(ends) <= 0
        ):
            if data["kind"] == "roller" and side == "columns" and ends[1] > 0:
                continue
            raise InputError(
                f"{says.split(',')[0]} must be above 0.", field=f"{side}_first"
            )
