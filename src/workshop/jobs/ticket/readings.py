"""The figures below the table."""

from dataclasses import dataclass

from engraving.history import AS_PLANNED, Correction
from engraving.jobspec import JobSpec, SizePart
from engraving.motion import Estimate
from engraving.pipeline.stages.ways.registry import words_of
from engraving.place import (
    shown_piece,
)
from engraving.recipe import (
    job_dose_j_mm2,
)
from workshop.jobs.pictures.engine import pipeline

_WORTH = 0.01


@dataclass(frozen=True)
class Readings:
    """A job's figures; share burned and time are None before they are computed."""

    size: SizePart
    dose: float
    total_rows: int
    burned: float | None = None
    estimate: Estimate | None = None
    look_ahead: int = 0
    waits: float = 0.0
    correction: Correction = AS_PLANNED
    marked: str = "Burned"
    beam: bool = True
    passes: int = 0
    picture_at: int = 0

    @property
    def pass_s(self) -> float:
        """How long a pass of a relief takes, on average."""
        found = self.estimate
        picture = found.operation_s.get(self.picture_at, 0.0) if found else 0.0
        return picture / max(self.passes, 1)

    @property
    def seconds(self) -> float:
        """How long it takes, as the machine's own burns correct the plan."""
        found = self.estimate
        return self.correction.seconds(found.seconds, found.rows) if found else 0.0

    @property
    def held_back(self) -> float:
        """Seconds that a plan of few moves costs, 0 where that is next to nothing."""
        found = self.estimate
        worth = found is not None and found.held_back_s > _WORTH * found.seconds
        return found.held_back_s if found is not None and worth else 0.0

    @property
    def burn_mm_s(self) -> float:
        """How fast the head runs where it burns, all in all."""
        return self.estimate.burn_mm_s if self.estimate else 0.0


def quick_readings(spec: JobSpec) -> Readings:
    """Return readings that need no dots."""
    return Readings(
        spec.size, job_dose_j_mm2(spec), spec.size.rows,
        marked=words_of(spec).marked, beam=not spec.machine.touches,
    )  # fmt: skip


def full_readings(spec: JobSpec, correction: Correction = AS_PLANNED) -> Readings:
    """Return readings from the real dots and their tool path."""
    estimate = pipeline().estimate(spec)
    share = pipeline().dots(shown_piece(spec)).share
    sent, worth = pipeline().sent(spec), _WORTH * estimate.seconds
    waits = sent.wait_s if sent is not None and sent.wait_s > worth else 0.0
    return Readings(
        spec.size,
        job_dose_j_mm2(spec),
        estimate.rows,
        share,
        estimate,
        spec.machine.look_ahead,
        waits,
        correction,
        words_of(spec).marked,
        not spec.machine.touches,
        pipeline().relief(spec).count if spec.marking.way == "relief" else 0,
        [one.kind for one in spec.operations].index("raster"),
    )
