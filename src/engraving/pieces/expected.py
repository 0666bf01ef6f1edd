"""What a piece was to look like, and the frame its photo is laid over."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.colour.lightness import luminance
from engraving.jobspec import BlankPart, SizePart
from engraving.pieces.amend import KNOTS, Curve, at_knots
from engraving.place import face_mask

Light = NDArray[np.float32]

_LONGEST = 900
_MOST_PX_MM = 12.0
_RIM_MM = 10.0
_CELLS = 140
_LEAST_CELL_MM = 0.4
_LEAST_CELL_DOTS = 5
_FULL = 65535


@dataclass(frozen=True)
class Frame:
    """A rectangle of the piece: the picture, and the blank round it as far as it shows.

    Attributes
    ----------
    left, low : float
        Its corner in mm from the picture's lower left one; not above 0.
    width, height : float
    px_mm : float
        Pixels of a mm of the finest pictures that are laid over one another.
    """

    left: float
    low: float
    width: float
    height: float
    px_mm: float

    @property
    def pixels(self) -> tuple[int, int]:
        """Columns and rows."""
        return round(self.width * self.px_mm), round(self.height * self.px_mm)

    def cells(self, cell_mm: float) -> tuple[int, int]:
        """Return columns and rows of cells of about a size."""
        return (
            max(round(self.width / cell_mm), 4),
            max(round(self.height / cell_mm), 4),
        )

    def to_pixels(self, points: Sequence[tuple[float, float]]) -> NDArray[np.float64]:
        """Return points in mm from the picture's lower left corner as pixels, y down."""
        x, y = np.array(points, np.float64).T
        deep = self.height
        return np.stack(
            [(x - self.left) * self.px_mm, (deep - (y - self.low)) * self.px_mm], axis=1
        )


@dataclass(frozen=True)
class Expected:
    """What a piece was to look like.

    Attributes
    ----------
    levels : ndarray of uint8, shape (rows, cols)
        Asked of the dots: 0 burned solid, 255 left; as seen.
    size : SizePart
    blank : BlankPart
    curve : tuple of (float, float)
        Burned share in % and the L* it is known to come out at.
    ground : float
        Luminance of the bare substrate, 0..1.
    """

    levels: NDArray[np.uint8]
    size: SizePart
    blank: BlankPart
    curve: Curve
    ground: float

    @cached_property
    def frame(self) -> Frame:
        """The picture, and the blank round it."""
        size, blank = self.size, self.blank
        # The blank's box, from the picture's lower left corner.
        left = size.width_mm / 2 - size.offset_x_mm - blank.width_mm / 2
        low = size.height_mm / 2 - size.offset_y_mm - blank.height_mm / 2
        x0, y0 = max(min(left, 0.0), -_RIM_MM), max(min(low, 0.0), -_RIM_MM)
        x1 = min(max(left + blank.width_mm, size.width_mm), size.width_mm + _RIM_MM)
        y1 = min(max(low + blank.height_mm, size.height_mm), size.height_mm + _RIM_MM)
        wide, high = x1 - x0, y1 - y0
        return Frame(x0, y0, wide, high, min(_LONGEST / max(wide, high), _MOST_PX_MM))

    @cached_property
    def cell_mm(self) -> float:
        """Side of the cells in which tones are compared: some dots, some tenths of a mm."""
        frame, pitch = self.frame, max(self.size.cell_mm)
        return max(
            _LEAST_CELL_MM,
            _LEAST_CELL_DOTS * pitch,
            max(frame.width, frame.height) / _CELLS,
        )

    @cached_property
    def shares(self) -> Light:
        """Share of each knot in each cell, shape (rows, cols, knots); bare is the first.

        A dot's asked share lies between two knots and counts for both, so that the
        luminance of a cell is `shares` times that of the knots.
        """
        cols, rows = self.frame.cells(self.cell_mm)
        framed = self._framed(self.levels, 255)
        place = (KNOTS.size - 1) * (1 - np.arange(256) / 255)
        out = np.zeros((rows, cols, KNOTS.size), np.float32)
        for k in range(KNOTS.size):
            # Sixteen bits: two bytes a dot for one knot after the other.
            near = np.rint(_FULL * np.clip(1 - np.abs(place - k), 0, 1)).astype(np.uint16)
            part = cv2.resize(near[framed], (cols, rows), interpolation=cv2.INTER_AREA)
            out[..., k] = part / np.float32(_FULL)
        return out

    @cached_property
    def on_blank(self) -> NDArray[np.bool_]:
        """Which cells lie wholly on the blank."""
        cols, rows = self.frame.cells(self.cell_mm)
        frame = self.frame
        size = self.size.model_copy(update={
            "width_mm": frame.width, "height_mm": frame.height,
            "pitch_mm": frame.height / rows / 3, "dot_pitch_mm": frame.width / cols / 3,
            "offset_x_mm": self.size.offset_x_mm + frame.left + frame.width / 2
            - self.size.width_mm / 2,
            "offset_y_mm": self.size.offset_y_mm + frame.low + frame.height / 2
            - self.size.height_mm / 2,
        })  # fmt: skip
        face = face_mask(size, self.blank).astype(np.float32)
        part = cv2.resize(face, (cols, rows), interpolation=cv2.INTER_AREA)
        return np.asarray(part > 0.999)

    @property
    def known(self) -> NDArray[np.float64]:
        """Luminance that is known of each knot; bare substrate's is its ground's."""
        light = luminance(at_knots(self.curve))
        light[0] = self.ground
        return np.asarray(light)

    @cached_property
    def light(self) -> Light:
        """Luminance that was expected in each cell."""
        return np.asarray(self.shares @ self.known.astype(np.float32))

    def picture(self) -> Light:
        """Return the luminance expected at each pixel of the frame."""
        table = np.interp(1 - np.arange(256) / 255, KNOTS, self.known).astype(np.float32)
        lit = np.take(table, self._framed(self.levels, 255))
        return np.asarray(cv2.resize(lit, self.frame.pixels, interpolation=cv2.INTER_AREA))

    def _framed(self, plane: NDArray[np.uint8], fill: int) -> NDArray[np.uint8]:
        """Return a plane of the picture's dots over the whole frame."""
        frame, (along, pitch) = self.frame, self.size.cell_mm
        rows, cols = plane.shape
        left, low = round(-frame.left / along), round(-frame.low / pitch)
        wide = max(round(frame.width / along), cols + left)
        high = max(round(frame.height / pitch), rows + low)
        out = np.full((high, wide), fill, np.uint8)
        top = high - low - rows
        out[top : top + rows, left : left + cols] = plane
        return out


def expected_of(
    levels: NDArray[np.uint8], size: SizePart, blank: BlankPart, curve: Curve, ground: float
) -> Expected:
    """Return what a piece was to look like, the picture beyond the blank left off."""
    face = face_mask(size, blank)
    return Expected(np.where(face, levels, np.uint8(255)), size, blank, curve, ground)
