"""The tool path as a picture of time: when each spot is burned or passed over.

However many moves there are, what is shown is one picture of the window that
is looked at; playing it is comparing each pixel's time with the clock.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.toolpath import Moves

_SLICE, _HEADS_A_SLICE = 1 << 17, 400
"""So many moves are painted at a time: a band of wide rows has millions."""
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


@dataclass(frozen=True)
class Stretch:
    """Some moves of a tool path, one after the other.

    Attributes
    ----------
    x_mm, y_mm : ndarray of float, shape (n,)
        Where each ends.
    lit : ndarray of bool, shape (n,)
        Whether the beam is on.
    seconds : ndarray of float, shape (n,)
        How long each takes.
    """

    x_mm: NDArray[np.floating]
    y_mm: NDArray[np.floating]
    lit: NDArray[np.bool_]
    seconds: NDArray[np.floating]


def stretches(moves: Moves, each: NDArray[np.floating]) -> Iterator[Stretch]:
    """Yield moves that take so many seconds each, not too many at a time."""
    for first in range(0, len(moves), _SLICE):
        part = slice(first, first + _SLICE)
        x_mm, y_mm = moves.x[part] * moves.unit_mm, moves.y[part] * moves.unit_mm
        yield Stretch(x_mm, y_mm, moves.power[part] > 0, np.array(each[part]))


def empty_map(looked: Looked) -> PathMap:
    """Return a map where nothing happens."""
    shape = looked.rows, looked.cols
    return PathMap(
        np.zeros(shape, np.uint16), np.zeros(shape, np.uint16), np.zeros((0, 3), np.float32)
    )


class Painter:
    """Paints a tool path, band by band.

    Parameters
    ----------
    looked : Looked
        The window.
    zero : tuple of float
        Where the head stands at first, in mm.
    whole_s : float
        How long all of it takes.
    """

    def __init__(self, looked: Looked, zero: tuple[float, float], whole_s: float) -> None:
        self._looked, self._whole = looked, max(whole_s, 1e-9)
        self._map = empty_map(looked)
        self._heads: list[NDArray[np.float64]] = []
        self._at, self._begun = zero, 0.0

    def add(self, moves: Moves, each: NDArray[np.floating]) -> None:
        """Paint moves that take so many seconds each."""
        for stretch in stretches(moves, each):
            self.paint(stretch)

    def paint(self, stretch: Stretch) -> None:
        """Paint the next moves of the way."""
        x = np.concatenate(([self._at[0]], stretch.x_mm))
        y = np.concatenate(([self._at[1]], stretch.y_mm))
        past = np.concatenate(([0.0], np.cumsum(stretch.seconds)))
        ends = (self._begun + past) / self._whole
        paint(self._map, self._looked, x, y, stretch.lit, np.minimum(ends, 1.0))
        step = max(len(stretch.lit) // _HEADS_A_SLICE, 1)
        self._heads.append(np.stack([ends[::step], x[::step], y[::step]], axis=1))
        self._begun += float(stretch.seconds.sum())
        self._at = float(x[-1]), float(y[-1])

    def found(self) -> PathMap:
        """Return what was painted so far."""
        if self._heads:
            self._map.heads = np.concatenate(self._heads).astype(np.float32)
        return self._map


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
