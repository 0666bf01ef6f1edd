"""The outlines station: what is cut, scored, hatched or carved inside."""

from typing import Any

from engraving.jobspec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.stations.outlines.choices import adding_choices
from workshop.jobs.stations.outlines.facts import operation_values, operations_facts
from workshop.jobs.stations.outlines.form import OperationForm
from workshop.jobs.stations.outlines.operations import fitting_recipes
from workshop.jobs.stations.station import Seen, Station


def operation_form(job: Job, spec: JobSpec, at: int, data: Any = None) -> OperationForm:
    """Return the form of one operation, filled with its values or with what was sent."""
    values = operation_values(spec, at)
    recipes = fitting_recipes(job, ["hatch", "score", "cut"])
    if data is None:
        return OperationForm(initial=values, recipes=recipes)
    return OperationForm.of(data, values, recipes=recipes)


def _besides(seen: Seen) -> dict[str, Any]:
    ops = operations_facts(seen.spec, seen.looked)
    return {
        "ops": ops,
        "operation": operation_form(seen.job, seen.spec, ops.looked),
        "adding": adding_choices(),
    }


STATION = Station("outlines", besides=_besides)
