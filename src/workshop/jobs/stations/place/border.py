"""The border that is walked round all that is burned."""

from dataclasses import dataclass

import numpy as np

from engraving.jobspec import JobSpec
from engraving.motion import clock_of
from engraving.place import border_line
from engraving.toolpath import Moves, record_strokes

_SLOW_MM_S = 50.0


def border_moves(spec: JobSpec, box_mm: float = 0.0, power: float = 0.0) -> Moves:
    """Return the moves round the border, or round a box along a wall."""
    speed = min(_SLOW_MM_S, *spec.machine.max_speeds)
    return record_strokes([border_line(spec, box_mm)], spec.machine, speed, power)


@dataclass(frozen=True)
class BorderWalk:
    """The way round all that is burned: how long it is in mm, and takes in s."""

    long: float
    seconds: float


def border_walk(spec: JobSpec) -> BorderWalk:
    """Return how long the border is, and how long walking it takes."""
    clock = clock_of(spec)
    clock.add(border_moves(spec))
    long = float(np.hypot(*np.diff(border_line(spec), axis=0).T).sum())
    return BorderWalk(long, clock.estimate().seconds)
