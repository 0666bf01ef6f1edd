"""What is drawn over the picture in pure dark or light: border and lettering."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from engraving.artwork.shapes import inside_shape
from engraving.jobspec import BorderPart, LetteringPart, Look, MaskPart, SizePart
from engraving.lettering import Face, fill_outlines, line_outlines
from engraving.strips import in_bands

NOTHING, DARK, LIGHT = 0, 1, 2
_CODE = {"dark": DARK, "light": LIGHT}


def draw_overlay(
    size: SizePart,
    lettering: LetteringPart,
    border: BorderPart,
    frame: MaskPart,
    face: Callable[[str], Face],
) -> NDArray[np.uint8] | None:
    """Return what is drawn over each dot; None when nothing is.

    Returns
    -------
    ndarray of uint8, shape (rows, cols), or None
        0 nothing, 1 dark, 2 light. It is never made of dots: its edges are
        those of the grid.
    """
    if not border.on and not lettering.lines:
        return None
    out = np.zeros((size.rows, size.cols), np.uint8)
    if border.on:
        out[border_dots(size, border, frame)] = look_code(border.look)
    for line in lettering.lines:
        glyphs = line_outlines(face(line.font), line)
        out[fill_outlines(glyphs, size)] = look_code(line.look)
    return out


def look_code(look: Look) -> int:
    """Return the overlay's code of a look."""
    return _CODE[look]


def border_dots(size: SizePart, border: BorderPart, frame: MaskPart) -> NDArray[np.bool_]:
    """Return the dots of the border, along the frame where there is one."""
    shape, inset = frame.frame, frame.frame_inset_mm
    if shape == "none":
        shape, inset = "rectangle", 0.0
    width, height = size.width_mm - 2 * inset, size.height_mm - 2 * inset
    if shape == "circle":
        width = height = min(width, height)
    inside = inside_shape(shape, size, width, height, frame.corner_mm)
    out, outer = np.zeros((size.rows, size.cols), np.bool_), border.inset_mm

    def fill(first: int, last: int) -> None:
        away = inside(first, last)
        out[first:last] = (away > outer) & (away <= outer + border.width_mm)

    in_bands(size.rows, fill)
    return out
