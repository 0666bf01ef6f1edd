"""What is to be shown of a burn while it goes: when each spot burns, where rows begin.

Both are gathered from the very moves that are written, in the same walk.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engraving.motion import Clock
from engraving.pipeline.pathmap import Looked, Painter, PathMap
from engraving.toolpath import Moves


@dataclass(frozen=True)
class BurnTrack:
    """A burn's way over the bed.

    Attributes
    ----------
    path : PathMap
        When each pixel is burned, in shares of the whole time.
    begun : ndarray of float64, shape (n, 3)
        Of each row or stroke: where the beam comes on, x and y in mm in the machine's
        frame, and the share of the whole time, 0..1, that is over then.
    """

    path: PathMap
    begun: NDArray[np.float64]


class Tracking:
    """Tracks moves as they pass.

    Parameters
    ----------
    looked : Looked
        The window of the path.
    clock : Clock
        Not yet begun.
    zero : tuple of float
        Where the head stands at first, in mm.
    whole_s : float
        How long all of it takes.
    """

    def __init__(
        self, looked: Looked, clock: Clock, zero: tuple[float, float], whole_s: float
    ) -> None:
        self._painter = Painter(looked, zero, whole_s)
        self._clock = clock
        self._begun: list[NDArray[np.float64]] = []

    def through(self, bands: Iterable[Moves]) -> Iterator[Moves]:
        """Yield a tool path as it is, having tracked each band."""
        for moves in bands:
            begun, each = self._clock.seconds, self._clock.add(moves)
            self._begun.append(_rows_begun(moves, begun, each))
            self._painter.add(moves, each)
            yield moves

    def found(self) -> BurnTrack:
        """Return what was tracked so far."""
        begun = np.concatenate(self._begun) if self._begun else np.zeros((0, 3))
        begun[:, 2] /= max(self._clock.seconds, 1e-9)
        return BurnTrack(self._painter.found(), begun)


def _rows_begun(
    moves: Moves, begun_s: float, each: NDArray[np.floating]
) -> NDArray[np.float64]:
    """Return where and when the rows of a band begin, in mm and seconds."""
    at, lit = moves.starts(), np.flatnonzero(moves.power > 0)
    if not len(at):
        return np.zeros((0, 3))
    # The move before the first that burns ends where the beam comes on.
    on = np.append(lit, 0)[np.searchsorted(lit, at)] - 1
    on = np.where(on < at, at, on)
    due = begun_s + np.concatenate(([0.0], np.cumsum(each)))[at]
    return np.stack([moves.x[on] * moves.unit_mm, moves.y[on] * moves.unit_mm, due], axis=1)
