"""The lines of a line screen as geometry, for whatever follows them with a tool."""

from dataclasses import dataclass
from math import ceil, cos, floor, radians, sin

import numpy as np
from numpy.typing import NDArray

from engraving.dots.screens import WAVES, cell_width_mm, coverage_table
from engraving.jobspec import DotsPart

Values = NDArray[np.float64]

_FINENESS = 2.0


@dataclass(frozen=True)
class Line:
    """One stretch of a line whose width swells with the tone.

    Attributes
    ----------
    points : ndarray of float64, shape (n, 2)
        Its middle, mm from the grid's top left corner, x right, y down.
    widths : ndarray of float64, shape (n,)
        Its width across the screen's direction in mm.
    across : tuple of float
        Unit vector across the screen.
    """

    points: Values
    widths: Values
    across: tuple[float, float]

    @property
    def outline(self) -> Values:
        """Return its closed outline, shape (2n, 2)."""
        half = self.widths[:, None] / 2 * np.array(self.across)
        return np.concatenate([self.points - half, (self.points + half)[::-1]])


def screen_lines(
    shape: str,
    levels: NDArray[np.uint8],
    settings: DotsPart,
    cell_mm: tuple[float, float],
) -> list[Line]:
    """Return the lines that a line screen draws, stretch by stretch.

    Parameters
    ----------
    shape : str
        One of `engraving.dots.screens.WAVES`.
    levels : ndarray of uint8, shape (rows, cols)
        0 is burned solid, 255 left untouched.
    settings, cell_mm
        As for `engraving.dots.screens.screened`, whose dots these outlines
        hold. A line whose middle lies just beyond the grid still reaches into
        it; so outlines may go half a line's distance beyond the edge.
    """
    rows, cols = levels.shape
    angle, wide = radians(settings.angle_deg), cell_width_mm(settings)
    along, across = np.array([cos(angle), -sin(angle)]), np.array([sin(angle), cos(angle)])
    size = np.array([cols * cell_mm[0], rows * cell_mm[1]])
    corners = np.array([[0, 0], [size[0], 0], [0, size[1]], size])
    reach, rise = corners @ along, corners @ across
    way = np.arange(reach.min(), reach.max(), min(cell_mm) / _FINENESS)
    aside = settings.swing_mm * WAVES[shape]((way / settings.wavelength_mm) % 1)
    period = wide * settings.every
    swing = settings.swing_mm if shape != "line" else 0.0
    first = floor((rise.min() - swing) / period) - 1
    last = ceil((rise.max() + swing) / period) + 1
    share = coverage_table(shape, settings)
    found: list[Line] = []
    for k in range(first, last):
        points = way[:, None] * along + (k * period + wide / 2 - aside)[:, None] * across
        widths = _widths(points, levels, share, cell_mm, wide / 2) * wide
        found += _stretches(points, widths, (float(across[0]), float(across[1])))
    return found


def _widths(
    points: Values,
    levels: NDArray[np.uint8],
    share: Values,
    cell_mm: tuple[float, float],
    margin_mm: float,
) -> Values:
    """Return the burned share at each point, 0 farther beyond the grid than the margin."""
    rows, cols = levels.shape
    size, margin = np.array([cols, rows]), margin_mm / np.array(cell_mm)
    place = points / np.array(cell_mm)
    inside = ((place > -margin) & (place < size + margin)).all(axis=1)
    column, row = np.floor(place).astype(np.int64).clip(0, size - 1).T
    return np.where(inside, share[levels[row, column]], 0.0)


def _stretches(points: Values, widths: Values, across: tuple[float, float]) -> list[Line]:
    """Cut a line where nothing of it is burned."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], widths > 0, [0]])))
    return [
        Line(points[start:end], widths[start:end], across)
        for start, end in edges.reshape(-1, 2)
        if end - start > 1
    ]
