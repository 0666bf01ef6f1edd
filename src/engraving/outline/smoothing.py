"""Closed lines smoothed along themselves, from corner to corner; sharp corners stay."""

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.outline.measures import signed_area

_TRIES = 4
_EXACT = 1e-4
_REACH = 3
_LEAST_REACH = 4
_LEAST_SIGMA = 0.3
_FEWEST = 8
_MOST_MOVED = 2.5
"""How far a blunt corner may lie beside its sides' meeting, in steps."""
_NEAR, _FAR = 3, 6
"""The points beside a corner, counted from it, that its sides are drawn through."""


def smoothed(
    points: NDArray[np.float64], smooth_mm: float, corner_deg: float, step_mm: float
) -> NDArray[np.float64]:
    """Return a closed line smoothed along itself, as large as it was.

    Parameters
    ----------
    points : ndarray, shape (n, 2)
        Its points; the last one is joined to the first.
    smooth_mm : float
        Standard deviation of the Gaussian along the line.
    corner_deg : float
        Where it turns by more over twice that length, it has a corner.
    step_mm : float
        Distance of the points returned.
    """
    line = _smooth(np.ascontiguousarray(points), smooth_mm, corner_deg, step_mm)
    return _as_large(line, signed_area(points), smooth_mm)


@njit(cache=True, nogil=True)
def _smooth(points, smooth_mm, corner_deg, step_mm):  # type: ignore[no-untyped-def]
    even, sigma = _evenly(points, step_mm), smooth_mm / step_mm
    if sigma < _LEAST_SIGMA or len(even) < _FEWEST:
        return points
    reach = min(max(round(2 * sigma), _LEAST_REACH), len(even) // 3)
    corners = _corners(even, reach, corner_deg)
    even = _sharpened(even, corners, step_mm)
    weights = _gaussian(sigma)
    if not len(corners):
        return _around(even, weights)
    out, count = np.zeros_like(even), len(even)
    for i in range(len(corners)):
        first = corners[i]
        last = corners[i + 1] if i + 1 < len(corners) else corners[0] + count
        line = np.zeros((last - first + 1, 2))
        for k in range(len(line)):
            line[k] = even[(first + k) % count]
        # The ring begins at its first corner.
        at = first - corners[0]
        out[at : at + last - first] = _between(line, weights)[:-1]
    return out


@njit(cache=True, nogil=True)
def _evenly(points, step):  # type: ignore[no-untyped-def]
    """Return points at equal distances along a closed line."""
    count = len(points)
    long = np.zeros(count + 1)
    for i in range(count):
        to = points[(i + 1) % count]
        long[i + 1] = long[i] + math.hypot(to[0] - points[i, 0], to[1] - points[i, 1])
    wanted = max(int(long[-1] / step), 3)
    out, i = np.zeros((wanted, 2)), 0
    for k in range(wanted):
        at = long[-1] * k / wanted
        while i < count - 1 and long[i + 1] <= at:
            i += 1
        side = long[i + 1] - long[i]
        share = (at - long[i]) / side if side > 0 else 0.0
        to = points[(i + 1) % count]
        for axis in range(2):
            out[k, axis] = points[i, axis] + share * (to[axis] - points[i, axis])
    return out


@njit(cache=True, nogil=True)
def _corners(points, reach, corner_deg):  # type: ignore[no-untyped-def]
    """Return where a line turns most sharply, nowhere two within `reach`."""
    count = len(points)
    turn = np.zeros(count)
    for i in range(count):
        before = points[i] - points[i - reach]
        after = points[(i + reach) % count] - points[i]
        cross = before[0] * after[1] - before[1] * after[0]
        dot = before[0] * after[0] + before[1] * after[1]
        turn[i] = abs(math.degrees(math.atan2(cross, dot)))
    peaks = np.zeros(count, np.int64)
    found = 0
    for i in range(count):
        if turn[i] > corner_deg and _is_highest(turn, i, reach):
            peaks[found] = i
            found += 1
    # On a plateau several are the sharpest; the first one stands for it.
    apart, kept = np.zeros(found, np.int64), 0
    for i in range(found):
        before_it = peaks[i - 1] if i else peaks[found - 1] - count
        if peaks[i] - before_it > reach:
            apart[kept] = peaks[i]
            kept += 1
    return apart[:kept] if kept else peaks[: min(found, 1)]


@njit(cache=True, nogil=True)
def _is_highest(values, at, reach):  # type: ignore[no-untyped-def]
    for k in range(at - reach, at + reach + 1):
        if values[k % len(values)] > values[at]:
            return False
    return True


@njit(cache=True, nogil=True)
def _sharpened(points, corners, step):  # type: ignore[no-untyped-def]
    """Return a line whose corners, cut off by the dots, are where its sides would meet.

    A corner between dots is blunt by half a dot; it is moved by at most one.
    """
    out, count = points.copy(), len(points)
    for at in corners:
        p, p_far = points[at - _NEAR], points[at - _FAR]
        q, q_far = points[(at + _NEAR) % count], points[(at + _FAR) % count]
        ux, uy, vx, vy = p_far[0] - p[0], p_far[1] - p[1], q_far[0] - q[0], q_far[1] - q[1]
        cross = ux * vy - uy * vx
        # Sides that are nearly one line meet nowhere near.
        if abs(cross) < 0.1 * math.hypot(ux, uy) * math.hypot(vx, vy):
            continue
        along = ((q[0] - p[0]) * vy - (q[1] - p[1]) * vx) / cross
        x, y = p[0] + along * ux, p[1] + along * uy
        if math.hypot(x - points[at, 0], y - points[at, 1]) > _MOST_MOVED * step:
            continue
        for k in (1, 2):
            before, after = (at - k) % count, (at + k) % count
            out[before, 0], out[before, 1] = x + (p[0] - x) * k / 3, y + (p[1] - y) * k / 3
            out[after, 0], out[after, 1] = x + (q[0] - x) * k / 3, y + (q[1] - y) * k / 3
        out[at, 0], out[at, 1] = x, y
    return out


@njit(cache=True, nogil=True)
def _gaussian(sigma):  # type: ignore[no-untyped-def]
    reach = int(_REACH * sigma) + 1
    weights = np.exp(-(np.arange(-reach, reach + 1) ** 2) / (2 * sigma * sigma))
    return weights / weights.sum()


@njit(cache=True, nogil=True)
def _around(line, weights):  # type: ignore[no-untyped-def]
    """Return a closed line smoothed."""
    reach, count = len(weights) // 2, len(line)
    x, y = np.zeros(count + 2 * reach), np.zeros(count + 2 * reach)
    for i in range(len(x)):
        x[i], y[i] = line[(i - reach) % count]
    return _weighted(x, y, weights, count)


@njit(cache=True, nogil=True)
def _between(line, weights):  # type: ignore[no-untyped-def]
    """Return an open line smoothed; its ends stay, and beyond them it goes on turned."""
    reach, last = len(weights) // 2, len(line) - 1
    if last < 3:
        return line
    x, y = np.zeros(last + 1 + 2 * reach), np.zeros(last + 1 + 2 * reach)
    for i in range(len(x)):
        # It goes on for no longer than it is, and rests there.
        at = min(max(i - reach, -last), 2 * last)
        if at < 0:
            x[i], y[i] = 2 * line[0] - line[-at]
        elif at > last:
            x[i], y[i] = 2 * line[last] - line[2 * last - at]
        else:
            x[i], y[i] = line[at]
    out = _weighted(x, y, weights, last + 1)
    out[0], out[last] = line[0], line[last]
    return out


@njit(cache=True, nogil=True)
def _weighted(x, y, weights, count):  # type: ignore[no-untyped-def]
    """Return weighted sums of neighbours; all points at once, a weight after the other."""
    sum_x, sum_y = np.zeros(count), np.zeros(count)
    for k in range(len(weights)):
        weight = weights[k]
        for i in range(count):
            sum_x[i] += weight * x[i + k]
            sum_y[i] += weight * y[i + k]
    return np.column_stack((sum_x, sum_y))


@njit(cache=True, nogil=True)
def _as_large(ring, area, most):  # type: ignore[no-untyped-def]
    """Return a ring moved along its normals until it goes round an area.

    Smoothing draws a curve of radius r towards its middle by r (1 − exp(−σ²/2r²)):
    the smaller it is, the more.
    """
    count = len(ring)
    for _ in range(_TRIES):
        around, out = 0.0, np.zeros_like(ring)
        for i in range(count):
            here, ahead = ring[i], ring[(i + 1) % count]
            around += math.hypot(ahead[0] - here[0], ahead[1] - here[1])
        missing = area - signed_area(ring)
        if around <= 0 or abs(missing) <= _EXACT * abs(area):
            break
        by = min(max(missing / around, -most), most)
        for i in range(count):
            ahead, back = ring[(i + 1) % count], ring[i - 1]
            x, y = ahead[0] - back[0], ahead[1] - back[1]
            long = max(math.hypot(x, y), 1e-12)
            out[i, 0], out[i, 1] = ring[i, 0] + y / long * by, ring[i, 1] - x / long * by
        ring = out
    return ring
