"""The bed probed at places of a grid; a carved job follows the heights that were found."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

from django.conf import settings

from engraving.jobspec import JobSpec, LevelPart, MachinePart
from engraving.place import burned_box, frame_of
from workshop.bench.runs.start import CannotBurnError
from workshop.bench.where import link_to
from workshop.controller.errors import LinkError
from workshop.controller.program import RowTable
from workshop.controller.protocol import probe_places
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import change, spec_of

MOST_ALONG = 15
LIFT_MM = 5.0
"""So far up between two places: more than a bed is uneven."""
LONGEST_S = 3600.0
_FIRST_MM, _SPEED_MM_S = 40.0, 1.0
_LINES_EACH = 3


@dataclass(frozen=True)
class Grid:
    """Places that are probed: rows from the front to the back, on the bed, in mm."""

    x_mm: float
    y_mm: float
    step_x_mm: float
    step_y_mm: float
    columns: int
    rows: int

    def way(self) -> list[tuple[int, int]]:
        """Return row and column of each place, to and fro from the front left one."""
        return [
            (row, column if row % 2 == 0 else self.columns - 1 - column)
            for row in range(self.rows)
            for column in range(self.columns)
        ]

    def places(self) -> list[tuple[float, float]]:
        """Return where they lie on the bed, in the order of the way."""
        return [
            (self.x_mm + column * self.step_x_mm, self.y_mm + row * self.step_y_mm)
            for row, column in self.way()
        ]

    def level(self, probed: Sequence[float]) -> LevelPart:
        """Return what was probed on the way as heights; the lowest of them is 0."""
        low = min(probed)
        rows = [[0.0] * self.columns for _ in range(self.rows)]
        for (row, column), height in zip(self.way(), probed, strict=True):
            rows[row][column] = round(height - low, 3)
        return LevelPart(
            x_mm=self.x_mm, y_mm=self.y_mm, step_x_mm=self.step_x_mm,
            step_y_mm=self.step_y_mm, heights_mm=tuple(tuple(row) for row in rows),
        )  # fmt: skip


def grid_over(spec: JobSpec, columns: int, rows: int) -> Grid:
    """Return a grid over all that a job carves.

    Raises
    ------
    CannotBurnError
        When there are too few places, or too many, or it lies off the bed.
    """
    if not (2 <= columns <= MOST_ALONG and 2 <= rows <= MOST_ALONG):
        raise CannotBurnError(f"Probe 2 to {MOST_ALONG} places along each side.")
    box, bed = burned_box(spec), spec.machine
    inside = min(box.left, box.front) >= 0 and box.back <= bed.bed_height_mm
    if not inside or box.left + box.width > bed.bed_width_mm:
        raise CannotBurnError("The job reaches beyond the bed.")
    return Grid(
        round(box.left, 3), round(box.front, 3), round(box.width / (columns - 1), 3),
        round(box.height / (rows - 1), 3), columns, rows,
    )  # fmt: skip


def name_of(job: Job) -> str:
    """Return what the link calls it."""
    return f"probe {job.number}"


def begin(job: Job, machine: MachinePart, grid: Grid) -> None:
    """Send the tool down at every place; it stands over the first, and hangs clear.

    Raises
    ------
    LinkError
        When the machine is busy, or not reached.
    """
    frame = frame_of(machine)
    places = [frame.to_machine(x, y) for x, y in grid.places()]
    steps = [(b[0] - a[0], b[1] - a[1]) for a, b in pairwise(places)]
    lines = list(probe_places(steps, _FIRST_MM, LIFT_MM, _SPEED_MM_S))
    folder = Path(settings.MEDIA_ROOT) / "walks"
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{job.number}-probe.gcode"
    path.write_text("\n".join(lines) + "\n")
    each = (2 * LIFT_MM) / _SPEED_MM_S
    table = RowTable(
        [max(_LINES_EACH * at - 1, 0) for at in range(len(places))],
        [each * at for at in range(len(places))],
        each * len(places),
    )
    table.write(path.with_suffix(".rows"))
    link_to(job.machine, "start", kind="probe", name=name_of(job), path=str(path))


def ended(job: Job) -> list[float] | None:
    """Return the heights of a probing that is over; None while it goes on.

    None were found where it was broken off.
    """
    try:
        known = link_to(job.machine, "program", name=name_of(job))
    except LinkError:
        return []
    if known is None or known["state"] in ("stopped", "failed"):
        return []
    return list(known["probed"]) if known["state"] == "done" else None


def keep(job: Job, grid: Grid, probed: Sequence[float]) -> bool:
    """Let a job follow the heights that were probed; return whether it does."""
    if len(probed) != grid.columns * grid.rows or not all(map(math.isfinite, probed)):
        return False
    job.refresh_from_db()
    spec = spec_of(job)
    carving = spec.marking.carving.model_copy(update={"level": grid.level(probed)})
    marking = spec.marking.model_copy(update={"carving": carving})
    return change(
        job, spec.model_copy(update={"marking": marking}), "Heights of the bed, probed"
    )
