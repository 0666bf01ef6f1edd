"""The neutral record of a tool path: where to, how deep, how fast, how strong.

Positions are whole output units, 10^-decimals mm or inches in the machine's own frame,
so that what is estimated and checked is exactly what is written, rounding
included.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Moves:
    """Straight moves in order.

    Attributes
    ----------
    x, y : ndarray of int32, shape (n,)
        End points in output units.
    power : ndarray of int32, shape (n,)
        Beam power during the move as an S word; 0 is off. Of a tool that touches, 1
        where it marks.
    feed : ndarray of float32, shape (n,)
        Speed in mm/min; 0 marks a rapid move.
    unit_mm : float
        Millimetres of one output unit.
    z_mm : float
        Height of the focus above the surface, for all of these moves.
    z : ndarray of int32, shape (n,), optional
        Of a tool that is moved up and down: heights of the end points in output units,
        0 the surface, down negative.
    tool : str
        Name of the tool that touches; empty of a beam and of a drag point.
    spindle_rpm : int
        How fast that tool turns; 0 for none.
    warm_up_s : float
        How long its spindle is waited for.
    waits : bool
        The operator is waited for before these moves.
    rows : int
        How many burned rows they are; -1: count by their y.
    operation : int
        Which of the job's operations they are of.
    pocket : int
        Which of a fixture's pieces they are of, in the order of burning.
    """

    x: NDArray[np.int32]
    y: NDArray[np.int32]
    power: NDArray[np.int32]
    feed: NDArray[np.float32]
    unit_mm: float
    z_mm: float = 0.0
    z: NDArray[np.int32] | None = None
    tool: str = ""
    spindle_rpm: int = 0
    warm_up_s: float = 0.0
    waits: bool = False
    rows: int = -1
    operation: int = 0
    pocket: int = 0

    def starts(self) -> NDArray[np.int64]:
        """Return which moves begin a row or a stroke: rapid, and at rest at their end.

        A rapid move amid a row of dots, over a blank, is none: the head goes on burning
        at speed where it ends, without a run-up. A tool's stroke
        begins with its way there, lifted.
        """
        begins = self.feed == 0
        if self.z is not None:
            down = np.concatenate([[False], self.power > 0])
            on = np.flatnonzero(down[1:] & ~down[:-1])
            off = np.flatnonzero(down[:-1] & ~down[1:])
            # After a stroke the tool is lifted first; then it goes to the next.
            after = np.concatenate([[0], off + 1])[: len(on)]
            return np.minimum(after, np.maximum(on - 1, 0))
        if self.rows >= 0 and len(self):
            begins[:-1] &= self.power[1:] == 0
        return np.flatnonzero(begins)

    def between(self, first: int, end: int) -> "Moves":
        """Return moves first to end - 1, which begin where a row or a stroke does."""
        part = slice(first, end)
        rows = self.rows
        if rows >= 0 and self.z is None:
            at = self.starts()
            rows = int(np.count_nonzero((at >= first) & (at < end)))
        return replace(
            self,
            x=self.x[part],
            y=self.y[part],
            power=self.power[part],
            feed=self.feed[part],
            z=None if self.z is None else self.z[part],
            rows=rows,
            waits=self.waits and first == 0,
        )

    def __len__(self) -> int:
        return int(self.x.size)
