"""A tool's path bent to follow an uneven bed."""

from dataclasses import dataclass, replace

import numpy as np
import scipy
from numpy.typing import NDArray

from engraving.jobspec import LevelPart, MachinePart
from engraving.place import frame_of
from engraving.toolpath.moves import Moves

_PARTS = 4
"""A step of the grid is followed by at least so many moves."""


@dataclass(frozen=True)
class Level:
    """Heights of a bed, and the place whose height counts as none.

    Attributes
    ----------
    part : LevelPart
    zero : tuple of float
        Where the tool is touched off, mm on the bed.
    """

    part: LevelPart
    zero: tuple[float, float]

    def heights(
        self, x: NDArray[np.float64], y: NDArray[np.float64]
    ) -> NDArray[np.float64]:
        """Return how much higher places on the bed lie than where it was touched off."""
        grid = np.asarray(self.part.heights_mm, float)
        part = self.part
        along = part.x_mm + part.step_x_mm * np.arange(grid.shape[1])
        back = part.y_mm + part.step_y_mm * np.arange(grid.shape[0])
        # One row or column stands for a second like it.
        if len(along) == 1:
            along, grid = np.append(along, along[0] + 1), np.repeat(grid, 2, axis=1)
        if len(back) == 1:
            back, grid = np.append(back, back[0] + 1), np.repeat(grid, 2, axis=0)
        between = scipy.interpolate.RegularGridInterpolator((back, along), grid)

        def at(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
            inside = y.clip(back[0], back[-1]), x.clip(along[0], along[-1])
            return np.asarray(between(np.stack(inside, axis=-1)))

        zero = at(np.array([self.zero[0]]), np.array([self.zero[1]]))
        return at(x, y) - zero


def levelled(moves: Moves, level: Level, machine: MachinePart) -> Moves:
    """Return a tool's moves with the bed's heights added to theirs.

    What is long is followed in parts no longer than a quarter of the grid's step.
    """
    if moves.z is None or not level.part.heights_mm or not len(moves):
        return moves
    most = min(level.part.step_x_mm, level.part.step_y_mm) / _PARTS
    points = np.stack([moves.x, moves.y, moves.z], axis=1).astype(float) * moves.unit_mm
    before = np.concatenate([points[:1], points[:-1]])
    long = np.hypot(*(points - before)[:, :2].T)
    parts = np.where(moves.power > 0, np.ceil(long / most), 1).astype(int).clip(1)
    which = np.repeat(np.arange(len(points)), parts)
    nth = np.arange(len(which)) - np.repeat(np.cumsum(parts) - parts, parts) + 1
    share = (nth / parts[which])[:, None]
    way = before[which] + (points - before)[which] * share
    frame = frame_of(machine)
    x = (way[:, 0] - frame.offset_x) * frame.sign_x
    y = (way[:, 1] - frame.offset_y) * frame.sign_y
    way[:, 2] += level.heights(x, y)
    units = [np.floor(one / moves.unit_mm + 0.5).astype(np.int32) for one in way.T]
    return replace(
        moves, x=units[0], y=units[1], z=units[2], power=moves.power[which],
        feed=moves.feed[which],
    )  # fmt: skip
