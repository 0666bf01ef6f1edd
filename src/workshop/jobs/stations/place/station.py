"""The place station."""

from typing import Any

from engraving.jobspec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.stations.place.changes import apply_place, show_place
from workshop.jobs.stations.place.choices import adding_choices
from workshop.jobs.stations.place.facts import bed_facts
from workshop.jobs.stations.place.form import PlaceForm
from workshop.jobs.stations.place.mark_form import MarkForm
from workshop.jobs.stations.place.marks import mark_rows
from workshop.jobs.stations.outlines.facts import (
    operation_values,
    operations_facts,
)
from workshop.jobs.stations.outlines.form import OperationForm
from workshop.jobs.stations.outlines.operations import fitting_recipes
from workshop.jobs.stations.station import Seen, Station

_MARK = {"kind": "upright", "x_mm": 0, "y_mm": 0, "width_mm": 50, "height_mm": 50}


def operation_form(job: Job, spec: JobSpec, at: int, data: Any = None) -> OperationForm:
    """Return the form of one operation, filled with its values or with what was sent."""
    values = operation_values(spec, at)
    recipes = fitting_recipes(job, ["hatch", "score", "cut"])
    if data is None:
        return OperationForm(initial=values, recipes=recipes)
    return OperationForm.of(data, values, recipes=recipes)


def _besides(seen: Seen) -> dict[str, Any]:
    spec = seen.spec
    ops = operations_facts(spec, seen.looked)
    return {
        "facts": bed_facts(spec, seen.job),
        "ops": ops,
        "operation": operation_form(seen.job, spec, ops.looked),
        "marks": mark_rows(spec),
        "mark": MarkForm(initial=_MARK, auto_id="mark-%s"),
        "adding": adding_choices(),
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
