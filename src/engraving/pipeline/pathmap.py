"""The tool path as a picture of time: when each spot is burned or passed over.

However many moves there are, what is shown is one picture of the window that
is looked at; playing it is comparing each pixel's time with the clock.
"""

from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

LATEST = 65535
"""Times are shares of the whole, 1…65535; 0 is never."""


@dataclass(frozen=True)
class Looked:
    """A window of the machine's plane, in mm and in pixels."""

    left: float
    front: float
    width: float
    height: float
    cols: int
    rows: int


@dataclass
class PathMap:
    """When each pixel is burned first, and when it is first passed over.

    Attributes
    ----------
    burned, passed : ndarray of uint16, shape (rows, cols)
        Row 0 has the highest y.
    heads : ndarray of float32, shape (n, 3)
        Share of the time, x and y of the head along the way, some thousand of
        them.
    """

    burned: NDArray[np.uint16]
    passed: NDArray[np.uint16]
    heads: NDArray[np.float32]


def empty_map(looked: Looked) -> PathMap:
    """Return a map where nothing happens."""
    shape = looked.rows, looked.cols
    return PathMap(
        np.zeros(shape, np.uint16), np.zeros(shape, np.uint16), np.zeros((0, 3), np.float32)
    )


def paint(
    into: PathMap,
    looked: Looked,
    x: NDArray[np.float64],
    y: NDArray[np.float64],
    lit: NDArray[np.bool_],
    ends: NDArray[np.float64],
) -> None:
    """Paint moves from (x[i], y[i]) to (x[i + 1], y[i + 1]), in mm.

    Parameters
    ----------
    lit : ndarray of bool, shape (n,)
        Whether the beam is on.
    ends : ndarray of float64, shape (n + 1,)
        Share of the whole time at each point, 0..1.
    """
    scale_x, scale_y = looked.cols / looked.width, looked.rows / looked.height
    _paint(
        (x - looked.left) * scale_x, looked.rows - (y - looked.front) * scale_y, lit, ends,
        into.burned, into.passed,
    )  # fmt: skip


@njit(cache=True, nogil=True)
def _paint(x, y, lit, ends, burned, passed):  # type: ignore[no-untyped-def]
    rows, cols = burned.shape
    for i in range(lit.size):
        long = max(abs(x[i + 1] - x[i]), abs(y[i + 1] - y[i]))
        steps = min(int(long) + 1, 4 * (rows + cols))
        target = burned if lit[i] else passed
        for k in range(steps + 1):
            share = k / steps
            col = int(np.floor(x[i] + share * (x[i + 1] - x[i])))
            row = int(np.floor(y[i] + share * (y[i + 1] - y[i])))
            if row < 0 or col < 0 or row >= rows or col >= cols:
                continue
            at = ends[i] + share * (ends[i + 1] - ends[i])
            value = np.uint16(1 + at * 65534.0)
            if target[row, col] == 0 or value < target[row, col]:
                target[row, col] = value
