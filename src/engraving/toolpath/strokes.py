"""Strokes to moves: lines that are followed, such as single-stroke letters."""

import math
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import MachinePart
from engraving.place import frame_of
from engraving.recipe import run_up_mm
from engraving.toolpath.moves import Moves
from engraving.units import MM_PER_INCH


def record_strokes(
    strokes: Iterable[NDArray[np.float64]],
    machine: MachinePart,
    speed_mm_s: float,
    power: float,
    z_mm: float = 0.0,
    run_up_deg: float | None = None,
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
    run_up_deg : float, optional
        Each stroke is straight, and is burned at speed from its first point to its
        last, like a row of dots: the head speeds up before it and slows down after.
        This is how far the moves are turned later; what the head can do follows
        from where it runs in the end.
    """
    if run_up_deg is not None:
        strokes = [run_up_to(one, machine, speed_mm_s, run_up_deg) for one in strokes]
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
    dark = rapid.copy()
    if (
        run_up_deg is not None
    ):  # four points a stroke, and the beam is on between the middle ones
        dark[np.arange(len(dark)) % 4 != 2] = True
    return Moves(
        np.floor(x / unit + 0.5).astype(np.int32),
        np.floor(y / unit + 0.5).astype(np.int32),
        np.where(dark, 0, word).astype(np.int32),
        np.where(rapid, 0, speed_mm_s * 60).astype(np.float32),
        unit,
        z_mm,
    )


def run_up_to(
    stroke: NDArray[np.float64], machine: MachinePart, speed_mm_s: float, turn_deg: float
) -> NDArray[np.float64]:
    """Return a straight stroke with its run-up before and after, shape (4, 2)."""
    first, last = stroke[0], stroke[-1]
    way = last - first
    long = float(np.hypot(*way))
    if not long:
        return np.stack([first, first, last, last])
    angle = math.degrees(math.atan2(way[1], way[0])) + turn_deg
    reach = run_up_mm(speed_mm_s, machine.acceleration_along(angle)) / long * way
    return np.stack([first - reach, first, last, last + reach])
