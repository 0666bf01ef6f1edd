"""A tool's path from the side: how low it goes along the bed's width."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engraving.place.frame import Frame
from engraving.toolpath import Moves


@dataclass(frozen=True)
class SideView:
    """How low a tool goes, as seen from the front of the bed.

    Attributes
    ----------
    left_mm, width_mm : float
        Of the bed, from its left edge.
    lowest : ndarray of float32, shape (columns,)
        Lowest height in each column, 0 the surface; 0 where it never goes down.
    """

    left_mm: float
    width_mm: float
    lowest: NDArray[np.float32]


class SideViewer:
    """Takes a tool path in, band by band."""

    def __init__(self, left_mm: float, width_mm: float, columns: int, frame: Frame) -> None:
        self._left, self._wide, self._frame = left_mm, width_mm, frame
        self._lowest = np.zeros(columns, np.float32)
        self.touches = False

    def add(self, moves: Moves) -> None:
        """Add moves; those of a beam have no heights, and are none of these."""
        if moves.z is None or not len(moves):
            return
        self.touches = True
        across = (moves.x * moves.unit_mm - self._frame.offset_x) * self._frame.sign_x
        ends = np.stack([across, moves.z * moves.unit_mm], axis=1)
        begins = np.concatenate([ends[:1], ends[:-1]])
        down = moves.power > 0
        begins, ends = begins[down], ends[down]
        step = self._wide / len(self._lowest)
        parts = np.ceil(np.abs(ends - begins)[:, 0] / step).astype(int) + 1
        which = np.repeat(np.arange(len(ends)), parts)
        nth = np.arange(len(which)) - np.repeat(np.cumsum(parts) - parts, parts)
        share = ((nth + 1) / parts[which])[:, None]
        way = begins[which] + (ends - begins)[which] * share
        column = ((way[:, 0] - self._left) / step).astype(int)
        column = column.clip(0, len(self._lowest) - 1)
        np.minimum.at(self._lowest, column, way[:, 1].astype(np.float32))

    def found(self) -> SideView | None:
        """Return what was seen; None where no tool goes up and down."""
        return SideView(self._left, self._wide, self._lowest) if self.touches else None
