"""Helper marks on the bed, and jobs that burn the blanks' outlines on card."""

from typing import Any

from engraving.errors import InputError
from engraving.spec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.services.revisions import change, spec_of, updated
from workshop.jobs.services.tickets import copy, rename

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


def outlines_on_card(job: Job) -> Job:
    """Open a job that scores the blanks' outlines where they are to lie.

    Burned on a card, it shows where each blank belongs; power and speed are
    this job's own and want a look.
    """
    spec = spec_of(job)
    if spec.mount.rotary:
        raise InputError("On a rotary there is nothing to lay a blank on.")
    burn = spec.burn
    raster = spec.operations[[one.kind for one in spec.operations].index("raster")]
    score = {
        "kind": "score", "shape": "blank", "offset_mm": 0.0, "name": "Where the blanks lie",
        "speed_mm_s": min(burn.speed_mm_s, 50.0), "power": burn.power,
    }  # fmt: skip
    twin = copy(job)
    first = raster.model_copy(update={"on": False}).model_dump(mode="json")
    change(twin, updated(spec, {"operations": [first, score]}), "Outlines on card")
    rename(twin, f"Where they lie: {spec.name}"[:200], job.customer)
    return twin
