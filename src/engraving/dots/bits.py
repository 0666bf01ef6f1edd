"""Dots packed eight to a byte: the form every later stage reads."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import BinaryIO, Self

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from engraving.dots.power import FULL
from engraving.png import GRAY, write_png
from engraving.units import pixels_per_metre

_BAND_ROWS = 256


@dataclass(frozen=True)
class BitGrid:
    """A grid of dots.

    Attributes
    ----------
    packed : ndarray of uint8, shape (rows, ceil(cols / 8))
        Most significant bit on the left; 1 = burn; unused bits are 0.
    cols : int
        Dots in a row.
    power : ndarray of uint16, shape (rows, cols), optional
        How strongly each dot burns, 0…1000 thousandths of the recipe's power;
        without it all burn at full power. A dot is on where this is not 0.
    """

    packed: NDArray[np.uint8]
    cols: int
    power: NDArray[np.uint16] | None = None

    @classmethod
    def from_dots(cls, dots: NDArray[np.uint8]) -> Self:
        """Pack dots of shape (rows, cols), 0 or 1."""
        return cls(np.packbits(dots, axis=1), int(dots.shape[1]))

    @classmethod
    def from_power(cls, power: NDArray[np.uint16]) -> Self:
        """Make a grid of dots of different power."""
        return cls(np.packbits(power > 0, axis=1), int(power.shape[1]), power)

    def transposed(self) -> Self:
        """Return the grid with rows and columns changed over."""
        if self.power is not None:
            return type(self).from_power(np.ascontiguousarray(self.power.T))
        return type(self).from_dots(np.ascontiguousarray(self.unpack().T))

    def turned(self, *, left: bool) -> Self:
        """Return the grid a quarter turned, its top to the left or to the right."""
        way = 1 if left else -1
        if self.power is not None:
            return type(self).from_power(np.ascontiguousarray(np.rot90(self.power, way)))
        return type(self).from_dots(np.ascontiguousarray(np.rot90(self.unpack(), way)))

    def columns(self, first: int, last: int) -> Self:
        """Return the grid's columns from the first up to, not with, the last."""
        if self.power is not None:
            return type(self).from_power(np.ascontiguousarray(self.power[:, first:last]))
        return type(self).from_dots(self.window(first, 0, last - first, self.rows))

    def extended(self, rows: int) -> Self:
        """Return the grid with its first rows once more below its last."""
        again = np.vstack([self.packed, self.packed[:rows]])
        if self.power is None:
            return replace(self, packed=again)
        return replace(self, packed=again, power=np.vstack([self.power, self.power[:rows]]))

    @property
    def rows(self) -> int:
        """Rows of the grid."""
        return int(self.packed.shape[0])

    @property
    def count(self) -> int:
        """How many dots are burned."""
        return int(np.bitwise_count(self.packed).sum(dtype=np.int64))

    @property
    def share(self) -> float:
        """Burned share of the grid, 0..1; a dot of half the power counts half."""
        if self.power is not None:
            return float(self.power.mean(dtype=np.float64)) / FULL
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

    def strengths(self, left: int, top: int, cols: int, rows: int) -> NDArray[np.float32]:
        """Return the same part as shares of full power, float32, 0..1."""
        if self.power is None:
            return self.window(left, top, cols, rows).astype(np.float32)
        out = np.zeros((max(rows, 0), max(cols, 0)), np.float32)
        x0, x1 = max(left, 0), min(left + cols, self.cols)
        y0, y1 = max(top, 0), min(top + rows, self.rows)
        if x0 < x1 and y0 < y1:
            part = self.power[y0:y1, x0:x1]
            out[y0 - top : y1 - top, x0 - left : x1 - left] = part / np.float32(FULL)
        return out

    def unpack(self) -> NDArray[np.uint8]:
        """Return all dots, shape (rows, cols), 0/1."""
        return np.unpackbits(self.packed, axis=1, count=self.cols)

    def mirrored(self) -> Self:
        """Return the grid with left and right changed."""
        flipped = np.unpackbits(self.packed, axis=1, count=self.cols)[:, ::-1]
        power = None if self.power is None else np.ascontiguousarray(self.power[:, ::-1])
        return type(self)(np.packbits(flipped, axis=1), self.cols, power)

    def within(self, packed: NDArray[np.uint8]) -> Self:
        """Return the grid with everything off that is off in a packed mask."""
        power = self.power
        if power is not None:
            power = power * np.unpackbits(packed, axis=1, count=self.cols)
        return replace(self, packed=self.packed & packed, power=power)

    def with_solid(self, packed: NDArray[np.uint8]) -> Self:
        """Return the grid with everything at full power that is on in a packed mask."""
        power = self.power
        if power is not None:
            solid = np.unpackbits(packed, axis=1, count=self.cols).astype(np.bool_)
            power = np.where(solid, np.uint16(FULL), power)
        return replace(self, packed=self.packed | packed, power=power)

    def image(self) -> Image.Image:
        """Return the dots as a picture, black = burn: 1 bit, or gray by power."""
        if self.power is None:
            return Image.frombytes("1", (self.cols, self.rows), (~self.packed).tobytes())
        return Image.fromarray(_gray(self.power))

    def write_png(self, target: Path | BinaryIO, cell_mm: tuple[float, float]) -> None:
        """Write a PNG, black = burn, with its physical resolution.

        One bit a dot, or eight where dots differ in power. ``cell_mm`` is the
        length of a dot and the distance of the rows.
        """
        per_metre = (pixels_per_metre(cell_mm[0]), pixels_per_metre(cell_mm[1]))
        kind = (1 if self.power is None else 8, GRAY)
        write_png(target, (self.cols, self.rows), kind, per_metre, self._white_bands())

    def _white_bands(self) -> Iterator[NDArray[np.uint8]]:
        """Yield rows of the picture `image` returns, a band at a time."""
        for top in range(0, self.rows, _BAND_ROWS):
            rows = slice(top, top + _BAND_ROWS)
            if self.power is None:
                yield ~self.packed[rows]
            else:
                yield _gray(self.power[rows])


def _gray(power: NDArray[np.uint16]) -> NDArray[np.uint8]:
    return (255 - np.rint(power * np.float32(255 / FULL))).astype(np.uint8)
