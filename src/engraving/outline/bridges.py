"""Where a cut is left out, so that the piece stays in its sheet."""

import math
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import LineString
from shapely.ops import substring

_CORNER_DEG = 30.0
_PHASES = 64
_STEPS = 41
_SHARE = 0.4
"""A bridge moves by at most so much of the distance to the next one."""


class Bridge(NamedTuple):
    """Where a bridge lies, which way its line runs there, how far the next one is, mm."""

    x: float
    y: float
    along_x: float
    along_y: float
    apart: float


def bridges_of(
    line: LineString, count: int, wide_mm: float, kerf_mm: float, shift: float = 0.0
) -> list[Bridge]:
    """Return the bridges of a closed line; see `bridged`."""
    gap = wide_mm + kerf_mm
    if not count or count * gap >= line.length:
        return []
    at = _middles(line, count, gap, shift) % line.length
    here = shapely.get_coordinates(shapely.line_interpolate_point(line, at))
    ahead = (at + gap / 4) % line.length
    along = shapely.get_coordinates(shapely.line_interpolate_point(line, ahead)) - here
    along /= np.maximum(np.hypot(*along.T), 1e-12)[:, None]
    apart = line.length / count
    return [
        Bridge(x, y, along_x, along_y, apart)
        for (x, y), (along_x, along_y) in zip(here.tolist(), along.tolist(), strict=True)
    ]


def bridged(
    line: LineString, count: int, wide_mm: float, kerf_mm: float, shift: float = 0.0
) -> list[LineString]:
    """Return a closed line without its bridges, in its own direction.

    Bridges are spread evenly, and moved off corners, where they would break out
    crookedly; ``shift`` moves all of them on by a share of the way to the next. The
    beam takes half a kerf from each side of one, so the line ends that much before it.

    Returns
    -------
    list of LineString
        The line itself where it is too short for its bridges.
    """
    gap = wide_mm + kerf_mm
    around = line.length
    if not count or count * gap >= around:
        return [line]
    middles = _middles(line, count, gap, shift)
    begins, ends = middles + gap / 2, np.roll(middles, -1) - gap / 2
    ends[-1] += around
    return [_between(line, a, b) for a, b in zip(begins, ends, strict=True)]


def _between(line: LineString, begin: float, end: float) -> LineString:
    """Return a part of a closed line, which may run over its first point."""
    around = line.length
    turns = math.floor(begin / around)
    begin, end = begin - turns * around, end - turns * around
    if end <= around:
        return LineString(substring(line, begin, end))
    first, second = substring(line, begin, around), substring(line, 0, end - around)
    if begin >= around - 1e-9:
        return LineString(second)
    return LineString([*first.coords, *second.coords[1:]])


def _middles(line: LineString, count: int, gap: float, shift: float) -> NDArray[np.float64]:
    """Return where bridges lie along a line: even, clear of its corners, and moved on."""
    return _clear_middles(line, count, gap) + shift * line.length / count


def _clear_middles(line: LineString, count: int, gap: float) -> NDArray[np.float64]:
    """Return where bridges lie along a line: even, and clear of its corners."""
    around = line.length
    corners, step = _corners(line, gap), around / count
    even = np.arange(count) * step
    if not len(corners):
        return np.asarray(even + step / 2)
    phases = np.linspace(0, step, _PHASES, endpoint=False)
    clear = [_off(even + phase, corners, around).min() for phase in phases]
    placed = even + phases[int(np.argmax(clear))]
    shifts = np.linspace(-_SHARE, _SHARE, _STEPS) * step
    shifts = shifts[np.argsort(np.abs(shifts), kind="stable")]
    for at, middle in enumerate(placed):
        free = _off(middle + shifts, corners, around)
        enough = np.flatnonzero(free >= gap)
        placed[at] = middle + shifts[enough[0] if len(enough) else int(np.argmax(free))]
    return np.asarray(placed)


def _off(
    at: NDArray[np.float64], corners: NDArray[np.float64], around: float
) -> NDArray[np.float64]:
    """Return how far places along a line lie from its nearest corner."""
    apart = np.abs(at[:, None] - corners[None, :]) % around
    return np.asarray(np.minimum(apart, around - apart).min(axis=1))


def _corners(line: LineString, over: float) -> NDArray[np.float64]:
    """Return where a line turns sharply within a length, at a point or round a curve."""
    points = np.asarray(line.coords)[:-1]
    after = np.roll(points, -1, axis=0) - points
    before = np.roll(after, 1, axis=0)
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    turn = np.abs(np.degrees(np.arctan2(cross, (before * after).sum(axis=1))))
    steps = np.hypot(*after.T)
    around = steps.sum()
    at = np.concatenate([[0.0], np.cumsum(steps)])[:-1]
    thrice = np.concatenate([at - around, at, at + around])
    total = np.concatenate([[0.0], np.cumsum(np.tile(turn, 3))])
    first = np.searchsorted(thrice, at - over / 2, side="left")
    last = np.searchsorted(thrice, at + over / 2, side="right")
    return np.asarray(at[total[last] - total[first] > _CORNER_DEG])
