"""Carved halftones: lines and marks whose width follows the tone by their depth.

The screens are those of the dots: a share of a cell's area is cut. Of a line that share
is its width, measured across the screen; where it swings it lies aslant, and the tool
cuts the narrower width across its way. Round marks are plunges, diamonds are short
strokes down and up again, whose cut is a rhombus.

Where the tool cannot cut as wide as a cell, all tones are drawn in so far as it can: the
darkest gets the widest line.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.carving.thinning import ramped, thinned
from engraving.carving.vtool import VTool
from engraving.dots.screens import WAVES, cell_width_mm
from engraving.jobspec import DotsPart

Values = NDArray[np.float64]
Levels = NDArray[np.uint8]

_STEPS_A_CELL = 12
_FINEST_MM = 0.03


@dataclass(frozen=True)
class Screen:
    """A picture as a V-tool is to carve it.

    Attributes
    ----------
    levels : ndarray of uint8, shape (rows, cols)
        0 is carved as wide as it goes, 255 left.
    cell_mm : tuple of float
        Length of a dot and distance of the rows.
    dots : DotsPart
        The screen: method, ruling, angle, waves, bounds of the marks.
    tool : VTool
    least_mm : float
        Below this width the tool lifts.
    ramp_mm : float
        So long is the way down into a line.
    set_off : bool
        Every other row of marks is moved by half a cell.
    """

    levels: Levels
    cell_mm: tuple[float, float]
    dots: DotsPart
    tool: VTool
    least_mm: float
    ramp_mm: float = 0.0
    set_off: bool = False

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height of the picture."""
        rows, cols = self.levels.shape
        return cols * self.cell_mm[0], rows * self.cell_mm[1]

    @property
    def most_mm(self) -> float:
        """The widest line or mark."""
        bound = self.dots.most_mark_mm or math.inf
        return min(cell_width_mm(self.dots), self.tool.widest_mm, bound)

    @property
    def lifts_below_mm(self) -> float:
        """The narrowest line or mark."""
        return max(self.least_mm, self.dots.least_mark_mm, self.tool.tip_mm + 1e-6)

    def shares(self, points: Values) -> Values:
        """Return the share to be cut at points, straight between dots; outside none."""
        rows, cols = self.levels.shape
        place = points / np.array(self.cell_mm) - 0.5
        x, y = place[..., 0].clip(0, cols - 1), place[..., 1].clip(0, rows - 1)
        x0, y0 = (np.minimum(one, most - 2).clip(0).astype(np.int64) for one, most in (
            (x, cols), (y, rows)))  # fmt: skip
        x1, y1 = np.minimum(x0 + 1, cols - 1), np.minimum(y0 + 1, rows - 1)
        u, v = x - x0, y - y0
        plane = self.levels
        upper = plane[y0, x0] * (1 - u) + plane[y0, x1] * u
        lower = plane[y1, x0] * (1 - u) + plane[y1, x1] * u
        inside = ((place >= -0.5) & (place <= np.array([cols, rows]) - 0.5)).all(axis=-1)
        return np.where(inside, 1 - (upper * (1 - v) + lower * v) / 255, 0.0)


def carve_screen(screen: Screen) -> list[Values]:
    """Return the strokes of a carved halftone, in the order they are carved.

    Returns
    -------
    list of ndarray, shape (n, 3)
        mm from the picture's top left corner, x right, y down, and height: 0 the
        surface, down negative.
    """
    marks = screen.dots.method not in WAVES
    # A mark stands for its cell, a line for what lies beside it.
    seen = cell_width_mm(screen.dots) * (1.0 if marks else 0.4)
    meant = replace(screen, levels=_meant(screen, seen))
    return list(_marks(meant) if marks else _lines(meant))


def _meant(screen: Screen, wide_mm: float) -> Levels:
    """Return levels averaged over squares so wide."""
    across, down = (max(round(wide_mm / one), 1) for one in screen.cell_mm)
    box = (across | 1, down | 1)
    return np.asarray(
        cv2.blur(screen.levels, box, borderType=cv2.BORDER_REPLICATE), np.uint8
    )


def _lines(screen: Screen) -> Iterator[Values]:
    """Yield lines, every other one backward, so that the tool travels little."""
    dots, wide = screen.dots, cell_width_mm(screen.dots)
    angle = math.radians(dots.angle_deg)
    along = np.array([math.cos(angle), -math.sin(angle)])
    across = np.array([math.sin(angle), math.cos(angle)])
    size = np.array(screen.size_mm)
    corners = np.array([[0, 0], [size[0], 0], [0, size[1]], size])
    reach, rise = corners @ along, corners @ across
    waves = dots.method != "line"
    step = wide / _STEPS_A_CELL
    if waves:
        step = min(step, dots.wavelength_mm / 48)
    way = np.arange(reach.min(), reach.max() + step, max(step, _FINEST_MM))
    turns = way / dots.wavelength_mm
    aside = dots.swing_mm * WAVES[dots.method](turns % 1) if waves else np.zeros_like(way)
    # Width across the way: the lines lie aslant where they swing.
    slope = np.gradient(aside, way)
    narrowed = 1 / np.sqrt(1 + slope**2)
    period = wide * dots.every
    swing = dots.swing_mm if waves else 0.0
    first = math.floor((rise.min() - swing) / period) - 1
    last = math.ceil((rise.max() + swing) / period) + 1
    backward = False
    for k in range(first, last):
        points = way[:, None] * along + (k * period + wide / 2 - aside)[:, None] * across
        share = screen.shares(points)
        if not share.any():
            continue
        widths = share * screen.most_mm * narrowed
        depths = screen.tool.depths(widths)
        depths[widths < screen.lifts_below_mm] = 0.0
        found = [
            _ready(one, screen.ramp_mm) for one in _stretches(points, depths, backward)
        ]
        yield from found
        backward ^= bool(found)


def _stretches(points: Values, depths: Values, backward: bool) -> Iterator[Values]:
    """Yield a line cut where the tool lifts."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], depths > 0, [0]])))
    spans = edges.reshape(-1, 2)
    for start, end in spans[::-1] if backward else spans:
        if end - start < 2:
            continue
        stroke = np.column_stack([points[start:end], -depths[start:end]])
        yield stroke[::-1] if backward else stroke


def _ready(stroke: Values, ramp_mm: float) -> Values:
    """Return a stroke without the points that lie on it, and a way down into it."""
    return ramped(thinned(stroke), ramp_mm)


def _marks(screen: Screen) -> Iterator[Values]:
    """Yield marks row by row, to and fro."""
    wide, half = cell_width_mm(screen.dots), cell_width_mm(screen.dots) / 2
    angle = math.radians(screen.dots.angle_deg)
    along = np.array([math.cos(angle), -math.sin(angle)])
    across = np.array([math.sin(angle), math.cos(angle)])
    size = np.array(screen.size_mm)
    corners = np.array([[0, 0], [size[0], 0], [0, size[1]], size])
    reach, rise = corners @ along, corners @ across
    columns = np.arange(
        math.floor(reach.min() / wide) - 1, math.ceil(reach.max() / wide) + 1
    )
    diamond = screen.dots.method == "diamond"
    backward = False
    for k in range(math.floor(rise.min() / wide) - 1, math.ceil(rise.max() / wide) + 1):
        off = half if screen.set_off and k % 2 else 0.0
        middles = (columns * wide + half + off)[:, None] * along + (
            k * wide + half
        ) * across
        widths = screen.most_mm * np.sqrt(screen.shares(middles))
        cut = widths >= screen.lifts_below_mm
        chosen = np.flatnonzero(cut)[:: -1 if backward else 1]
        for at in chosen:
            yield _mark(screen, middles[at], float(widths[at]), along, diamond=diamond)
        backward ^= bool(chosen.size)


def _mark(
    screen: Screen, middle: Values, width: float, along: Values, *, diamond: bool
) -> Values:
    deep = screen.tool.depth(width)
    if not diamond:
        return np.array([[*middle, -deep]])
    reach = along * width / 2
    return np.array([[*(middle - reach), 0.0], [*middle, -deep], [*(middle + reach), 0.0]])
