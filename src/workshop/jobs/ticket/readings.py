"""The figures below the table."""

from dataclasses import dataclass

from engraving.jobspec import JobSpec, SizePart
from engraving.motion import Estimate
from engraving.place import (
    shown_piece,
)
from engraving.recipe import (
    job_dose_j_mm2,
)
from workshop.jobs.pictures.engine import pipeline


@dataclass(frozen=True)
class Readings:
    """A job's figures; share burned and time are None before they are computed."""

    size: SizePart
    dose: float
    total_rows: int
    burned: float | None = None
    estimate: Estimate | None = None


def quick_readings(spec: JobSpec) -> Readings:
    """Return readings that need no dots."""
    return Readings(spec.size, job_dose_j_mm2(spec), spec.size.rows)


def full_readings(spec: JobSpec) -> Readings:
    """Return readings from the real dots and their tool path."""
    estimate = pipeline().estimate(spec)
    share = pipeline().dots(shown_piece(spec)).share
    return Readings(spec.size, job_dose_j_mm2(spec), estimate.rows, share, estimate)
