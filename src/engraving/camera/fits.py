"""The rectangle or circle that an outline is, bumps and bites in it set aside."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.geometry.rotation import turned_points

_CORNER_SHARE = 0.12
"""Of a side, at each end, that is not looked at: corners are round, or broken off."""
_ROUNDS = 3

Points = NDArray[np.float32]


@dataclass(frozen=True)
class Fitted:
    """A shape in pixels, x to the right and y down, turned from x to y.

    ``off`` is the median distance of the outline from it.
    """

    x: float
    y: float
    width: float
    height: float
    angle_deg: float
    round: bool
    off: float


def fit_shape(points: Points) -> Fitted:
    """Return the circle or the rectangle that lies nearer to an outline."""
    disc, box = _circle(points), _rectangle(points)
    return disc if disc.off < box.off else box


def _circle(points: Points) -> Fitted:
    """Return the circle of the least sum of absolute distances, nearly."""
    x, y = (float(v) for v in points.mean(axis=0))
    for _ in range(30):
        away = points - (x, y)
        radii = np.maximum(np.hypot(*away.T), 1e-6)
        radius = float(np.median(radii))
        pull = 1 / np.maximum(np.abs(radii - radius), 0.05)
        step = (pull * (1 - radius / radii)) @ away / pull.sum()
        x, y = x + float(step[0]), y + float(step[1])
    off = float(np.median(np.abs(radii - radius)))
    return Fitted(x, y, 2 * radius, 2 * radius, 0.0, True, off)


def _rectangle(points: Points) -> Fitted:
    """Return the rectangle whose sides lie on the median of the outline beside each."""
    (x, y), (wide, high), turn = cv2.minAreaRect(points)
    for _ in range(_ROUNDS):
        own = _turned(points - (x, y), -turn)
        lean = _lean(own, wide, high)
        turn += lean
        own = _turned(points - (x, y), -turn)
        left, right = (float(np.median(s)) for s in _beside(own, wide, high, 0))
        up, down = (float(np.median(s)) for s in _beside(own, wide, high, 1))
        shift = _turned(np.array([[(left + right) / 2, (up + down) / 2]]), turn)[0]
        x, y = x + float(shift[0]), y + float(shift[1])
        wide, high = right - left, down - up
    own = np.abs(_turned(points - (x, y), -turn))
    off = float(np.median(np.abs(np.maximum(own[:, 0] - wide / 2, own[:, 1] - high / 2))))
    while turn > 45:
        turn, wide, high = turn - 90, high, wide
    while turn <= -45:
        turn, wide, high = turn + 90, high, wide
    return Fitted(x, y, wide, high, turn, False, off)


def _turned(points: NDArray[np.floating], degrees: float) -> NDArray[np.float64]:
    return turned_points(points, (0.0, 0.0), degrees)


def _side_points(
    own: NDArray[np.float64], wide: float, high: float, axis: int
) -> list[NDArray[np.float64]]:
    """Return the points that belong to the two sides across an axis."""
    half = np.array([wide, high]) / 2
    other = 1 - axis
    mid = np.abs(own[:, other]) < half[other] * (1 - 2 * _CORNER_SHARE)
    near = np.abs(np.abs(own[:, axis]) - half[axis]) < 0.25 * half[axis] + 2
    sides = [own[mid & near & (own[:, axis] * sign > 0)] for sign in (-1, 1)]
    return [s if len(s) else own for s in sides]


def _beside(
    own: NDArray[np.float64], wide: float, high: float, axis: int
) -> list[NDArray[np.float64]]:
    return [side[:, axis] for side in _side_points(own, wide, high, axis)]


def _lean(own: NDArray[np.float64], wide: float, high: float) -> float:
    """Return by how many degrees the sides lean, the longer ones counting more."""
    slopes, weights = [], []
    for axis in (0, 1):
        for side in _side_points(own, wide, high, axis):
            line = cv2.fitLine(side.astype(np.float32), cv2.DIST_L1, 0, 0.01, 0.01).ravel()
            run, rise = float(line[1 - axis]), float(line[axis])
            if abs(run) > abs(rise):
                slopes.append(-rise / run if axis == 0 else rise / run)
                weights.append(np.ptp(side[:, 1 - axis]) ** 2)
    if not slopes:
        return 0.0
    return float(np.degrees(np.arctan(np.average(slopes, weights=weights))))
