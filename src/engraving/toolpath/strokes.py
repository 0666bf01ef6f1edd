"""Strokes to moves: lines that are followed, such as single-stroke letters."""

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from engraving.place import frame_of
from engraving.spec import MachinePart
from engraving.toolpath.moves import Moves
from engraving.units import MM_PER_INCH


def record_strokes(
    strokes: Iterable[NDArray[np.float64]],
    machine: MachinePart,
    speed_mm_s: float,
    power: float,
    z_mm: float = 0.0,
) -> Moves:
    """Return the moves of strokes on the bed, in the order given.

    Parameters
    ----------
    strokes : iterable of ndarray, shape (n, 2)
        Points in mm from the bed's front left corner.
    machine : MachinePart
    speed_mm_s, power : float
        Speed, and power in %.
    z_mm : float
        Height of the focus above the surface.
    """
    frame = frame_of(machine)
    unit = 10.0**-machine.decimals * (MM_PER_INCH if machine.inches else 1.0)
    points, first = [], []
    for stroke in strokes:
        points.append(stroke)
        first += [True] + [False] * (len(stroke) - 1)
    where = np.concatenate(points) if points else np.zeros((0, 2))
    rapid = np.array(first, bool)
    x = frame.offset_x + frame.sign_x * where[:, 0]
    y = frame.offset_y + frame.sign_y * where[:, 1]
    word = round(power / 100 * machine.s_max)
    return Moves(
        np.floor(x / unit + 0.5).astype(np.int32),
        np.floor(y / unit + 0.5).astype(np.int32),
        np.where(rapid, 0, word).astype(np.int32),
        np.where(rapid, 0, speed_mm_s * 60).astype(np.float32),
        unit,
        z_mm,
    )
