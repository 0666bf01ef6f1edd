"""Strokes with as few points as keep their shape, heights counted; the way into them."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

Values = NDArray[np.float64]

OFF_MM = 0.004
"""No point that is left out lies farther beside the line."""


def thinned(stroke: Values, off_mm: float = OFF_MM) -> Values:
    """Return a stroke without points that lie on it.

    Douglas & Peucker 1973 (Cartographica 10:112-122), in three dimensions.

    Parameters
    ----------
    stroke : ndarray, shape (n, 3)
        mm.
    """
    if len(stroke) < 3:
        return stroke
    kept = np.zeros(len(stroke), np.bool_)
    _keep(np.ascontiguousarray(stroke), off_mm * off_mm, kept)
    return stroke[kept]


@njit(cache=True, nogil=True)
def _keep(points, off, kept):  # type: ignore[no-untyped-def]
    """Mark the points that stay; `off` is the square of how far others may lie."""
    n = points.shape[0]
    kept[0] = kept[n - 1] = True
    stack = [(0, n - 1)]
    while stack:
        first, last = stack.pop()
        ax, ay, az = points[first]
        dx, dy, dz = points[last, 0] - ax, points[last, 1] - ay, points[last, 2] - az
        long = dx * dx + dy * dy + dz * dz
        far, at = off, -1
        for i in range(first + 1, last):
            px, py, pz = points[i, 0] - ax, points[i, 1] - ay, points[i, 2] - az
            if long > 0:
                t = min(max((px * dx + py * dy + pz * dz) / long, 0.0), 1.0)
                px, py, pz = px - t * dx, py - t * dy, pz - t * dz
            away = px * px + py * py + pz * pz
            if away > far:
                far, at = away, i
        if at > 0:
            kept[at] = True
            stack.append((first, at))
            stack.append((at, last))


def ramped(stroke: Values, ramp_mm: float) -> Values:
    """Return a stroke with a way down into it along itself, nowhere deeper than it is.

    The tool touches down a little along the stroke, goes down backward to its
    beginning, and then along it.
    """
    steps = np.hypot(*np.diff(stroke[:, :2], axis=0).T)
    run = np.concatenate([[0], np.cumsum(steps)])
    reach = min(ramp_mm, float(run[-1]))
    if reach <= 0 or stroke[0, 2] >= 0:
        return stroke
    inner = run[(run > 0) & (run < reach)]
    places = np.concatenate([[reach], inner[::-1]])
    x, y, own = (np.interp(places, run, stroke[:, k]) for k in range(3))
    down = stroke[0, 2] * (1 - places / reach)
    return np.vstack([np.column_stack([x, y, np.maximum(down, own)]), stroke])
