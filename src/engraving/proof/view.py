"""Pictures of a window on the burn grid: area averages from afar, true dots near.

From afar every screen pixel is the mean, in linear light, of all dots under
it. Nothing is ever picked out of the grid, which would lie through moiré.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.colour.light import LINEAR_OF_CODE, to_coded
from engraving.dots import BitGrid
from engraving.png import COLOUR, write_png
from engraving.proof.averaging import averaged_marks
from engraving.proof.colours import Palette
from engraving.proof.spot import SAMPLES, SpotModel
from engraving.units import pixels_per_metre

_BAND_ROWS = 256
_FULL = 65535
_CODE_OF_16 = np.rint(to_coded(np.arange(4096) / 4095) * 255).astype(np.uint8)
_LIGHT_16 = np.rint(LINEAR_OF_CODE * _FULL).astype(np.uint16)


@dataclass(frozen=True)
class Window:
    """A window on the burn grid, in dots, and the picture wanted of it.

    Attributes
    ----------
    left, top, cols, rows : int
        The dots to show; they may reach beyond the grid.
    width_px, height_px : int
        Size of the picture from afar. A closer picture comes at whole pixels
        per dot and is enlarged by whoever shows it.
    """

    left: int
    top: int
    cols: int
    rows: int
    width_px: int
    height_px: int

    @property
    def shrinks(self) -> bool:
        """Whether a screen pixel covers more than one dot, either way."""
        return self.width_px < self.cols or self.height_px < self.rows

    @property
    def closeness(self) -> float:
        """Screen pixels per dot, the way that has fewer."""
        return min(self.width_px / self.cols, self.height_px / self.rows)

    def averaged(self, plane: NDArray[np.uint16]) -> NDArray[np.uint16]:
        """Return area averages of a plane of linear values, at most picture-sized."""
        rows, cols = plane.shape
        size = min(self.width_px, cols), min(self.height_px, rows)
        return np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_AREA))


def shown_tones(codes: NDArray[np.uint8], window: Window) -> NDArray[np.uint8]:
    """Return a gray picture of sRGB codes on the grid, shape (height, width)."""
    part = _framed(codes, window)
    if not window.shrinks:
        return part
    light = window.averaged(np.take(_LIGHT_16, part))
    return np.take(_CODE_OF_16, light >> 4)


def shown_dots(bits: BitGrid, window: Window, palette: Palette) -> NDArray[np.uint8]:
    """Return a colour picture of the dots, shape (height, width, 3).

    Near, one pixel per dot; far, the burned share of every pixel.
    """
    if bits.power is None:
        part = bits.window(window.left, window.top, window.cols, window.rows)
        marks = part.astype(np.uint16) * np.uint16(_FULL)
    else:
        strong = bits.strengths(window.left, window.top, window.cols, window.rows)
        marks = np.rint(strong * _FULL).astype(np.uint16)
    if window.shrinks:
        marks = window.averaged(marks)
    return palette.paint(marks)


class TwoTone(NamedTuple):
    """A picture of two colours.

    Attributes
    ----------
    codes : ndarray of uint8, shape (height, width)
        0 or 1.
    colours : ndarray of uint8, shape (2, 3)
    """

    codes: NDArray[np.uint8]
    colours: NDArray[np.uint8]


def near_dots(bits: BitGrid, window: Window, palette: Palette) -> TwoTone | None:
    """Return `shown_dots` as bits, where they are no more than that; else None."""
    if bits.power is not None or window.shrinks:
        return None
    part = bits.window(window.left, window.top, window.cols, window.rows)
    return TwoTone(part, palette.paint(np.array([[0, _FULL]], np.uint16))[0])


def shown_marks(
    bits: BitGrid, window: Window, spot: SpotModel, palette: Palette
) -> NDArray[np.uint8]:
    """Return a colour picture of the burned piece, shape (height, width, 3).

    Near, four by four samples per dot; far, the mean of every pixel.
    """
    place = window.left, window.top, window.cols, window.rows
    size = min(window.width_px, window.cols), min(window.height_px, window.rows)
    if window.shrinks and bits.power is None and not spot.wide:
        return palette.paint(averaged_marks(bits, place, size, spot.cells))
    part = framed_dots(bits, place, spot.frame)
    if window.closeness >= 2:
        per_dot = SAMPLES if window.closeness > SAMPLES // 2 else SAMPLES // 2
        marks = spot.marks_within(part, per_dot)
        if window.closeness < per_dot:
            marks = window.averaged(marks)
        return palette.paint(marks)
    if window.shrinks:
        return palette.paint(spot.averaged(part, *size))
    return palette.paint(spot.marks(part))


def framed_dots(
    bits: BitGrid, place: tuple[int, int, int, int], frame: tuple[int, int]
) -> NDArray[np.uint8] | NDArray[np.float32]:
    """Return a window of dots, or of their powers, with the frame a spot model wants.

    Parameters
    ----------
    place : tuple of int
        Left, top, columns and rows of the window.
    frame : tuple of int
        Rows above and below, columns on each side.
    """
    left, top, cols, rows = place
    down, across = frame
    whole = left - across, top - down, cols + 2 * across, rows + 2 * down
    return bits.window(*whole) if bits.power is None else bits.strengths(*whole)


def write_proof_png(
    target: Path | BinaryIO,
    bits: BitGrid,
    spot: SpotModel,
    palette: Palette,
    cell_mm: tuple[float, float],
) -> None:
    """Write the proof as a PNG, one pixel per dot, at its physical resolution."""
    per_metre = (pixels_per_metre(cell_mm[0]), pixels_per_metre(cell_mm[1]))
    bands = _bands(bits, spot, palette)
    write_png(target, (bits.cols, bits.rows), (8, COLOUR), per_metre, bands)


def _bands(bits: BitGrid, spot: SpotModel, palette: Palette) -> Iterator[NDArray[np.uint8]]:
    for top in range(0, bits.rows, _BAND_ROWS):
        rows = min(_BAND_ROWS, bits.rows - top)
        window = Window(0, top, bits.cols, rows, bits.cols, rows)
        yield shown_marks(bits, window, spot, palette).reshape(rows, -1)


def _framed(codes: NDArray[np.uint8], window: Window) -> NDArray[np.uint8]:
    """Return the window's codes; beyond the grid they are white."""
    rows, cols = codes.shape
    x0, x1 = max(window.left, 0), min(window.left + window.cols, cols)
    y0, y1 = max(window.top, 0), min(window.top + window.rows, rows)
    if (x0, y0) == (window.left, window.top) and (x1 - x0, y1 - y0) == (
        window.cols,
        window.rows,
    ):
        return codes[y0:y1, x0:x1]
    out = np.full((window.rows, window.cols), 255, np.uint8)
    if x0 < x1 and y0 < y1:
        out[y0 - window.top : y1 - window.top, x0 - window.left : x1 - window.left] = codes[
            y0:y1, x0:x1
        ]
    return out
