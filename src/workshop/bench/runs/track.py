"""A burn's way over the bed, kept beside its G-code: its picture, where its rows begin.

Written by the worker with the G-code itself, so that a page shows what is burned and
computes nothing for it, however large the job is.
"""

from dataclasses import asdict, dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

from engraving.jobspec import JobSpec, MachinePart
from engraving.pipeline import BurnTrack, Looked
from engraving.place import frame_of
from workshop.bench.models import Run
from workshop.bench.runs.files import program_path
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.stations.place.path_view import path_png

_LONGEST_PX = 900


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


def bed_window(part: MachinePart) -> Looked:
    """Return the whole bed in the machine's own frame, and its pixels."""
    wide, deep = part.bed_width_mm, part.bed_height_mm
    ends = [frame_of(part).to_machine(x, y) for x, y in ((0.0, 0.0), (wide, deep))]
    scale = _LONGEST_PX / max(wide, deep)
    return Looked(
        min(x for x, _ in ends), min(y for _, y in ends), wide, deep,
        max(round(wide * scale), 1), max(round(deep * scale), 1),
    )  # fmt: skip


def keep(run: Run, track: BurnTrack) -> None:
    """Keep a burn's way beside its G-code."""
    _picture(run).write_bytes(path_png(track.path))
    np.save(_begun(run), track.begun)


def path_of(run: Run) -> bytes:
    """Return when each spot of the bed is burned, as PNG (see `path_png`)."""
    if not _picture(run).exists():
        _make(run)
    return _picture(run).read_bytes()


def row_of(run: Run, row: int) -> Row | None:
    """Return where a row of a burn begins; None where it has not so many."""
    if not _begun(run).exists():
        _make(run)
    begun = np.load(_begun(run), mmap_mode="r")
    if not 0 <= row < len(begun):
        return None
    x_mm, y_mm, share = (float(value) for value in begun[row])
    x, y = frame_of(JobSpec.model_validate(run.spec).machine).to_bed(x_mm, y_mm)
    return Row(row, round(x, 3), round(y, 3), share)


@lru_cache(maxsize=64)
def share_before(pk: int, row: int) -> float:
    """Return how much of a burn's time lies before a row, 0..1."""
    found = row_of(Run.objects.get(pk=pk), row)
    return found.share if found else 1.0


def _make(run: Run) -> None:
    """Track a burn that was written before such tracks were kept."""
    spec = JobSpec.model_validate(run.spec)
    keep(run, pipeline().track(spec, bed_window(spec.machine)))


def _picture(run: Run) -> Path:
    return program_path(run).with_name("path.png")


def _begun(run: Run) -> Path:
    return program_path(run).with_name("begun.npy")
