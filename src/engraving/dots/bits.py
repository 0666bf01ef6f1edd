"""Dots packed eight to a byte: the form every later stage reads."""

from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO, Self

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from engraving.units import png_density

_POPCOUNT = np.array([value.bit_count() for value in range(256)], np.uint8)


@dataclass(frozen=True)
class BitGrid:
    """A grid of dots.

    Attributes
    ----------
    packed : ndarray of uint8, shape (rows, ceil(cols / 8))
        Most significant bit on the left; 1 = burn; unused bits are 0.
    cols : int
        Dots in a row.
    """

    packed: NDArray[np.uint8]
    cols: int

    @classmethod
    def from_dots(cls, dots: NDArray[np.uint8]) -> Self:
        """Pack dots of shape (rows, cols), 0 or 1."""
        return cls(np.packbits(dots, axis=1), int(dots.shape[1]))

    @property
    def rows(self) -> int:
        """Rows of the grid."""
        return int(self.packed.shape[0])

    @property
    def count(self) -> int:
        """How many dots are burned."""
        return int(np.take(_POPCOUNT, self.packed).sum(dtype=np.int64))

    @property
    def share(self) -> float:
        """Burned share of the grid, 0..1."""
        return self.count / (self.rows * self.cols)

    def window(self, left: int, top: int, cols: int, rows: int) -> NDArray[np.uint8]:
        """Return a part unpacked, shape (rows, cols), 0/1; outside the grid is 0."""
        out = np.zeros((max(rows, 0), max(cols, 0)), np.uint8)
        x0, x1 = max(left, 0), min(left + cols, self.cols)
        y0, y1 = max(top, 0), min(top + rows, self.rows)
        if x0 < x1 and y0 < y1:
            first, last = x0 // 8, (x1 + 7) // 8
            bits = np.unpackbits(self.packed[y0:y1, first:last], axis=1)
            out[y0 - top : y1 - top, x0 - left : x1 - left] = bits[
                :, x0 - 8 * first : x1 - 8 * first
            ]
        return out

    def unpack(self) -> NDArray[np.uint8]:
        """Return all dots, shape (rows, cols), 0/1."""
        return np.unpackbits(self.packed, axis=1, count=self.cols)

    def mirrored(self) -> Self:
        """Return the grid with left and right changed."""
        flipped = np.unpackbits(self.packed, axis=1, count=self.cols)[:, ::-1]
        return type(self)(np.packbits(flipped, axis=1), self.cols)

    def write_png(self, target: Path | BinaryIO, cell_mm: tuple[float, float]) -> None:
        """Write a 1-bit PNG, black = burn, with its physical resolution.

        ``cell_mm`` is the length of a dot and the distance of the rows.
        """
        image = Image.frombytes("1", (self.cols, self.rows), (~self.packed).tobytes())
        image.save(target, "PNG", dpi=png_density(cell_mm), optimize=False)
