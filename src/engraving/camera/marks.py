"""The marks by which a bed camera is calibrated: burned on a card, at known places."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engraving.camera.codes import MODULES, mark_modules
from engraving.jobspec import MachinePart

_APART_MM = 62.0
_MOST_ALONG = 7
_RIM_SHARE = 0.09
_LARGEST_MM = 12.0
_LARGEST_SHARE = 0.025
"""Of the bed's longer side: a camera that sees more sees it smaller."""


@dataclass(frozen=True)
class BedMarks:
    """Marks over a bed.

    Attributes
    ----------
    side_mm : float
        Length of a mark's side.
    corners : tuple of (x, y)
        Front left corner of each mark, by its number; mm from the bed's.
    """

    side_mm: float
    corners: tuple[tuple[float, float], ...]

    def box(self) -> tuple[float, float, float, float]:
        """Return left, front, width and depth of all marks and the clear rim they need."""
        rim = self.side_mm / 4
        xs, ys = zip(*self.corners, strict=True)
        left, front = min(xs) - rim, min(ys) - rim
        wide = max(xs) + self.side_mm + rim - left
        return left, front, wide, max(ys) + self.side_mm + rim - front

    def ends(self, number: int) -> NDArray[np.float64]:
        """Return a mark's corners from its back left one on, clockwise, in mm."""
        x, y = self.corners[number]
        far_x, far_y = x + self.side_mm, y + self.side_mm
        return np.array([[x, far_y], [far_x, far_y], [far_x, y], [x, y]])


def bed_marks(machine: MachinePart) -> BedMarks:
    """Return the marks for a machine's bed: evenly all over it, but for its rim."""
    wide, deep = machine.bed_width_mm, machine.bed_height_mm
    columns, rows = (
        min(max(round(side / _APART_MM), 3), _MOST_ALONG) for side in (wide, deep)
    )
    apart = (
        wide * (1 - 2 * _RIM_SHARE) / (columns - 1),
        deep * (1 - 2 * _RIM_SHARE) / (rows - 1),
    )
    largest = max(_LARGEST_MM, _LARGEST_SHARE * max(wide, deep))
    side = min(0.45 * min(apart), largest)
    corners = tuple(
        (
            wide * _RIM_SHARE + column * apart[0] - side / 2,
            deep * _RIM_SHARE + row * apart[1] - side / 2,
        )
        for row in range(rows)
        for column in range(columns)
    )
    return BedMarks(side, corners)


def marks_picture(machine: MachinePart, pitch_mm: float) -> NDArray[np.uint8]:
    """Return the picture of the marks' box on a grid: 0 burn, 255 leave."""
    marks = bed_marks(machine)
    left, front, wide, deep = marks.box()
    cols, rows = round(wide / pitch_mm), round(deep / pitch_mm)
    out = np.full((rows, cols), 255, np.uint8)
    module = marks.side_mm / MODULES
    for number, (x, y) in enumerate(marks.corners):
        dark = mark_modules(number) == 0
        for row, column in zip(*np.nonzero(dark), strict=True):
            x0 = x - left + column * module
            y0 = front + deep - y - marks.side_mm + row * module
            out[
                round(y0 / pitch_mm) : round((y0 + module) / pitch_mm),
                round(x0 / pitch_mm) : round((x0 + module) / pitch_mm),
            ] = 0
    return out
