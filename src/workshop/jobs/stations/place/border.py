"""The border that is walked round all that is burned."""

from typing import Any

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


def border_facts(spec: JobSpec) -> dict[str, Any]:
    """Return how long the border is, and how long walking it takes."""
    clock = clock_of(spec)
    clock.add(border_moves(spec))
    long = float(np.hypot(*np.diff(border_line(spec), axis=0).T).sum())
    return {"long": long, "seconds": clock.estimate().seconds}
