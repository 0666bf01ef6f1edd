"""The border that is walked round all that is burned."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engraving.errors import InputError
from engraving.jobspec import JobSpec
from engraving.motion import clock_of
from engraving.place import blank_lines, border_line, frame_of, hull_line, job_zero
from engraving.toolpath import Moves, record_strokes
from workshop.jobs.pictures.engine import pipeline

_SLOW_MM_S = 50.0
WAYS = {
    "border": "its rectangle",
    "blank": "the blank's edge",
    "burned": "what is burned",
}
"""Along what the head walks, and what that is called."""


def way_round(
    spec: JobSpec, along: str = "border", box_mm: float = 0.0
) -> list[NDArray[np.float64]]:
    """Return the lines that are walked, on the bed in mm.

    Parameters
    ----------
    spec : JobSpec
    along : str
        One of `WAYS`. A round piece has only its border.
    box_mm : float
        Height of a box along a wall; 0: the border.

    Raises
    ------
    EngravingError
        When what is burned cannot be computed, or there is nothing.
    """
    if spec.mount.rotary or along == "border":
        return [border_line(spec, box_mm)]
    if along == "blank":
        return blank_lines(spec)
    return _round_what_burns(spec)


def _round_what_burns(spec: JobSpec) -> list[NDArray[np.float64]]:
    """Return a line round what is burned of each piece, outlines and all."""
    frame, at = frame_of(spec.machine), np.array(job_zero(spec))
    found: dict[int, NDArray[np.float64]] = {}
    for moves in pipeline().bands(spec):
        ends = np.stack([moves.x, moves.y], axis=1) * moves.unit_mm
        on = np.flatnonzero(moves.power > 0)
        begins = np.vstack([at, ends[:-1]])
        at = ends[-1]
        if on.size:
            known = found.get(moves.pocket, np.zeros((0, 2)))
            points = np.concatenate([known, begins[on], ends[on]])
            found[moves.pocket] = hull_line(points)
    if not found:
        raise InputError("Nothing of this job burns, so it has no border to walk.")
    return [
        np.array([frame.to_bed(x, y) for x, y in line.tolist()]) for line in found.values()
    ]


def walk_moves(
    spec: JobSpec, lines: Iterable[NDArray[np.float64]], power: float = 0.0
) -> Moves:
    """Return the moves along lines on the bed, slowly; ``power`` in %."""
    speed = min(_SLOW_MM_S, *spec.machine.max_speeds)
    return record_strokes(lines, spec.machine, speed, power)


@dataclass(frozen=True)
class BorderWalk:
    """The way round all that is burned: how long it is in mm, and takes in s."""

    long: float
    seconds: float


def border_walk(spec: JobSpec) -> BorderWalk:
    """Return how long the border is, and how long walking it takes."""
    clock = clock_of(spec)
    clock.add(walk_moves(spec, [border_line(spec)]))
    long = float(np.hypot(*np.diff(border_line(spec), axis=0).T).sum())
    return BorderWalk(long, clock.estimate().seconds)
