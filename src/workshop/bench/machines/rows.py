"""Where the rows of a burn begin: to go on there, and to see what is burned already."""

from dataclasses import asdict, dataclass
from functools import lru_cache

from engraving.jobspec import JobSpec
from engraving.pipeline import Begun
from engraving.place import frame_of
from workshop.bench.models import Run
from workshop.jobs.pictures.engine import pipeline


@dataclass(frozen=True)
class Row:
    """Where a row of a burn begins on the bed, in mm, and the share that is burned then."""

    row: int
    x: float
    y: float
    share: float

    def told(self) -> dict[str, float]:
        """Return it as a page's script reads it."""
        return asdict(self)


@lru_cache(maxsize=64)
def _begun(pk: int, row: int) -> Begun | None:
    return pipeline().begun_at(JobSpec.model_validate(Run.objects.get(pk=pk).spec), row)


def row_of(run: Run, row: int) -> Row | None:
    """Return where a row of a burn begins; None where it has not so many."""
    found = _begun(run.pk, row)
    if found is None:
        return None
    spec = JobSpec.model_validate(run.spec)
    x, y = frame_of(spec.machine).to_bed(found.x_mm, found.y_mm)
    return Row(row, round(x, 3), round(y, 3), found.share)


def share_before(pk: int, row: int) -> float:
    """Return how much of a burn's time lies before a row, 0..1."""
    found = _begun(pk, row)
    return found.share if found else 1.0
