"""Helper marks on the bed."""

from typing import Any

from engraving.errors import InputError
from engraving.jobspec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import change, spec_of, updated

KINDS = {
    "upright": "Line into the depth",
    "level": "Line across",
    "cross": "Cross",
    "box": "Box",
}


def mark_rows(spec: JobSpec) -> list[dict[str, Any]]:
    """Return what the station lists of each mark."""
    rows = []
    for at, mark in enumerate(spec.marks):
        where = {
            "upright": f"{mark.x_mm:.1f} mm from left",
            "level": f"{mark.y_mm:.1f} mm from front",
            "cross": f"{mark.x_mm:.1f}, {mark.y_mm:.1f} mm",
            "box": f"{mark.x_mm:.1f}, {mark.y_mm:.1f}, {mark.width_mm:.1f} × "
            f"{mark.height_mm:.1f} mm",
        }[mark.kind]
        rows.append({"at": at, "name": mark.name or KINDS[mark.kind], "where": where})
    return rows


def add_mark(job: Job, values: dict[str, Any]) -> None:
    """Draw a helper mark on the bed."""
    spec = spec_of(job)
    marks = [mark.model_dump(mode="json") for mark in spec.marks]
    change(job, updated(spec, {"marks": [*marks, values]}), "Helper mark")


def remove_mark(job: Job, at: int) -> None:
    """Take a helper mark off the bed."""
    spec = spec_of(job)
    marks = [mark.model_dump(mode="json") for mark in spec.marks]
    if not 0 <= at < len(marks):
        raise InputError("This mark is not there any more.")
    marks.pop(at)
    change(job, updated(spec, {"marks": marks}), "Helper mark removed")
