"""The place station."""

from typing import Any

from workshop.jobs.stations.outlines.facts import operation_rows
from workshop.jobs.stations.place.changes import apply_place, show_place
from workshop.jobs.stations.place.facts import bed_facts
from workshop.jobs.stations.place.form import PlaceForm
from workshop.jobs.stations.place.mark_form import MarkForm
from workshop.jobs.stations.place.marks import mark_rows
from workshop.jobs.stations.station import Seen, Station

_MARK = {"kind": "upright", "x_mm": 0, "y_mm": 0, "width_mm": 50, "height_mm": 50}


def _besides(seen: Seen) -> dict[str, Any]:
    spec = seen.spec
    return {
        "facts": bed_facts(spec, seen.job),
        "rows": operation_rows(spec),
        "marks": mark_rows(spec),
        "mark": MarkForm(initial=_MARK, auto_id="mark-%s"),
    }


STATION = Station(
    "place",
    PlaceForm,
    show_place,
    apply_place,
    _besides,
    labels={
        "zone_add": "Kept clear",
        "zone_drop": "Not kept clear",
        "pocket_toggle": "Pocket on or off",
        "shown": "Another pocket",
        "design_turn": "Design turned",
        "point_keep": "Point kept",
        "point_drop": "Point removed",
        "turn": "Turned",
        "x": "Moved",
        "y": "Moved",
        "centre": "Centred",
    },
    one_each=frozenset({"turn"}),
)
