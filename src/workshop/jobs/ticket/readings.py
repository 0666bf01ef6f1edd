"""The figures below the table."""

from typing import Any

from engraving.jobspec import JobSpec
from engraving.place import (
    shown_piece,
)
from engraving.recipe import (
    job_dose_j_mm2,
)
from workshop.jobs.pictures.engine import pipeline


def quick_readings(spec: JobSpec) -> dict[str, Any]:
    """Return readings that need no dots."""
    return {"size": spec.size, "dose": job_dose_j_mm2(spec), "total_rows": spec.size.rows}


def full_readings(spec: JobSpec) -> dict[str, Any]:
    """Return readings from the real dots and their tool path."""
    estimate = pipeline().estimate(spec)
    return {
        **quick_readings(spec),
        "burned": pipeline().dots(shown_piece(spec)).share,
        "estimate": estimate,
        "total_rows": estimate.rows,
    }
