"""The blank station."""

from typing import Any

from workshop.jobs.stations.blank.changes import apply_blank, show_blank
from workshop.jobs.stations.blank.facts import blank_facts
from workshop.jobs.stations.blank.form import BlankForm
from workshop.jobs.stations.blank.materials import take_material
from workshop.jobs.stations.edit import Edit
from workshop.jobs.stations.station import Seen, Station


def _besides(seen: Seen) -> dict[str, Any]:
    return {"facts": blank_facts(seen.spec, seen.job)}


def _apply(edit: Edit) -> None:
    if edit.changes.get("material"):
        take_material(edit, edit.changes["material"])
    apply_blank(edit)


STATION = Station(
    "blank",
    BlankForm,
    show_blank,
    _apply,
    _besides,
    labels={
        "material": "Material",
        "seen_from": "Side",
        "side_mirror": "Side",
        "side_invert": "Side",
        "side_polarity": "What the beam does",
        "dpi": "Resolution",
        "pitch": "Row distance",
        "lines": "Lines a mm",
        "dot_pitch": "Distance of dots",
        "offset_x": "Moved on the blank",
        "offset_y": "Moved on the blank",
        "nudge_x": "Moved on the blank",
        "nudge_y": "Moved on the blank",
        "fit": "Fitted to the blank",
        "centre": "Centred",
    },
)
