"""Curves as short lines, nowhere farther than `FINE_MM` beside them."""

import math
from collections.abc import Sequence
from typing import Any

import svgelements

from engraving.drawing.paths import FINE_MM

_MOST_STEPS = 2000


def flattened(
    segments: Sequence[Any], enlarged: float
) -> tuple[list[tuple[float, float]], bool]:
    """Return the points of a subpath in its own units, and whether it is closed.

    Parameters
    ----------
    segments : sequence
        Of a path of svgelements.
    enlarged : float
        How many mm one of its units becomes at most.
    """
    fine = FINE_MM / max(enlarged, 1e-9)
    points: list[tuple[float, float]] = []
    closed = False
    for segment in segments:
        if isinstance(segment, svgelements.Close):
            closed = True
            continue
        if segment.end is None:
            continue
        if not isinstance(segment, svgelements.Move):
            steps = _steps(segment, fine)
            between = (segment.point(i / steps) for i in range(1, steps))
            points += [(point.x, point.y) for point in between]
        points.append((segment.end.x, segment.end.y))
    return points, closed


def _steps(segment: Any, fine: float) -> int:
    """Return in how many lines a curve is divided.

    A chord lies at most max|B''| / (8 n²) beside a curve of n equal steps in its
    parameter; on an arc of radius r it is r (1 − cos(turn / 2n)).
    """
    if isinstance(segment, svgelements.QuadraticBezier):
        bend = 2 * abs(segment.start - segment.control * 2 + segment.end)
    elif isinstance(segment, svgelements.CubicBezier):
        bend = 6 * max(
            abs(segment.start - segment.control1 * 2 + segment.control2),
            abs(segment.control1 - segment.control2 * 2 + segment.end),
        )
    elif isinstance(segment, svgelements.Arc):
        radius = max(float(segment.rx), float(segment.ry))
        if radius <= fine:
            return 4
        step = 2 * math.acos(1 - fine / radius)
        return min(max(math.ceil(abs(float(segment.sweep)) / step), 4), _MOST_STEPS)
    else:
        return 1
    return min(max(math.ceil(math.sqrt(bend / (8 * fine))), 2), _MOST_STEPS)
