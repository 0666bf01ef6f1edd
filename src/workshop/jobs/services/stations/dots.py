"""The Dots station."""

from typing import Any

from engraving.spec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.services.stations.edit import Edit
from workshop.jobs.services.tickets import updated


def show_dots(spec: JobSpec, _job: Job) -> dict[str, Any]:
    """Return what the dots station's fields show."""
    return spec.dots.model_dump(mode="json")


def apply_dots(edit: Edit) -> None:
    """Apply what was changed on the dots station."""
    edit.spec = updated(edit.spec, {"dots": edit.changes})
