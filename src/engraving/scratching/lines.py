"""Tone by how many lines are scratched, all of them as deep and as wide as one another.

Lines lie a mark's width apart. Each has a tone from which on it is scratched: the next
one's is the last one's and the golden ratio more, past 1 begun again, so that whatever
share of the lines a tone asks for, they are spread evenly (Weyl 1916, Math. Annalen
77:313-352; the golden ratio leaves the evenest gaps, Swierczkowski 1959, Fund. Math.
46:187-189; both from memory). Along a line the tool lifts where the tone asks for fewer.
Ground that asks for next to none is left bare: the one line it would get crosses it all.

Crossed, both ways together cover 1 - (1 - a)² of a share a, so each is asked for less.
"""

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.dots.screens import WAVES
from engraving.jobspec import DotsPart, DragPart

Values = NDArray[np.float64]

GOLDEN = (math.sqrt(5) - 1) / 2
_STEP_SHARE = 0.5
_SMOOTH_LINES = 3


def scratch_lines(
    levels: NDArray[np.uint8],
    cell_mm: tuple[float, float],
    mark_mm: float,
    dots: DotsPart,
    drag: DragPart,
) -> list[Values]:
    """Return the scratches of a picture in lines.

    Parameters
    ----------
    levels : ndarray of uint8, shape (rows, cols)
        0 is scratched all over, 255 left.
    cell_mm : tuple of float
        Length of a dot and distance of the rows.
    mark_mm : float
        Width of the point's mark.
    dots : DotsPart
        Their direction and waves: of the methods of `WAVES` one.
    drag : DragPart
        Whether they are crossed, which are too short, and what counts as ground.

    Returns
    -------
    list of ndarray, shape (n, 2)
        mm from the picture's top left corner, x right, y down, in the order they are
        scratched.
    """
    share = (1 - levels / np.float32(255)).astype(np.float32)
    # A tone is that of some lines beside one another.
    box = [max(round(_SMOOTH_LINES * mark_mm / one), 1) for one in cell_mm]
    share = np.asarray(cv2.blur(share, (box[0], box[1]), borderType=cv2.BORDER_REPLICATE))
    ways = (dots.angle_deg, dots.angle_deg + 90) if drag.crossed else (dots.angle_deg,)
    share[share < drag.ground_percent / 100] = 0
    if drag.crossed:
        share = 1 - np.sqrt(np.maximum(1 - share, 0))
    found: list[Values] = []
    for angle in ways:
        turned = dots.model_copy(update={"angle_deg": angle})
        found += _one_way(share, cell_mm, mark_mm, turned, drag.least_mm)
    return found


def _one_way(
    share: NDArray[np.float32],
    cell_mm: tuple[float, float],
    mark_mm: float,
    dots: DotsPart,
    least_mm: float,
) -> list[Values]:
    rows, cols = share.shape
    size = np.array([cols * cell_mm[0], rows * cell_mm[1]])
    angle = math.radians(dots.angle_deg)
    along = np.array([math.cos(angle), -math.sin(angle)])
    across = np.array([math.sin(angle), math.cos(angle)])
    corners = np.array([[0, 0], [size[0], 0], [0, size[1]], size])
    reach, rise = corners @ along, corners @ across
    step = min(cell_mm) * _STEP_SHARE
    way = np.arange(reach.min(), reach.max() + step, step)
    swing = dots.swing_mm if dots.method != "line" else 0.0
    aside = swing * WAVES[dots.method]((way / dots.wavelength_mm) % 1)
    first = math.floor((rise.min() - swing) / mark_mm)
    last = math.ceil((rise.max() + swing) / mark_mm)
    found: list[Values] = []
    backward = False
    for k in range(first, last):
        threshold = (k * GOLDEN) % 1.0
        points = way[:, None] * along + ((k + 0.5) * mark_mm + aside)[:, None] * across
        down = _asked(share, points, cell_mm) > threshold
        spans = np.flatnonzero(np.diff(down, prepend=False, append=False)).reshape(-1, 2)
        runs = [_run(points[a:b], straight=not swing) for a, b in spans if b - a > 1]
        runs = [one for one in runs if _long(one) >= max(least_mm, 1e-9)]
        found += [one[::-1] for one in runs[::-1]] if backward else runs
        backward ^= bool(runs)
    return found


def _asked(
    share: NDArray[np.float32], points: Values, cell_mm: tuple[float, float]
) -> Values:
    """Return the share asked for at points; none outside the picture."""
    rows, cols = share.shape
    x, y = np.floor(points / np.array(cell_mm)).astype(np.int64).T
    inside = (x >= 0) & (x < cols) & (y >= 0) & (y < rows)
    asked = share[y.clip(0, rows - 1), x.clip(0, cols - 1)]
    return np.where(inside, asked, 0.0)


def _run(points: Values, *, straight: bool) -> Values:
    return points[[0, -1]] if straight else points[:: max(len(points) // 2000, 1)]


def _long(points: Values) -> float:
    return float(np.hypot(*np.diff(points, axis=0).T).sum())
