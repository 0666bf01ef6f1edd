"""Write a PNG a band of rows at a time: whole, a picture of dots is eight times its size.

ISO/IEC 15948:2004. The libraries at hand write pictures they hold whole, a byte or more
for each pixel.
"""

import struct
import zlib
from collections.abc import Iterable
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from engraving.progress import tell

GRAY, COLOUR, CLEAR = 0, 2, 6
_LEVEL = 3
"""Of 1 to 9: dots hardly pack any closer beyond it, and take twice as long."""


def write_png(
    target: Path | BinaryIO,
    size: tuple[int, int],
    kind: tuple[int, int],
    per_metre: tuple[int, int],
    bands: Iterable[NDArray[np.uint8]],
) -> None:
    """Write a PNG.

    Parameters
    ----------
    target : Path or binary stream
    size : (int, int)
        Columns and rows in pixels.
    kind : (int, int)
        Bits a sample, 1 or 8, and `GRAY`, `COLOUR` or, with opacity, `CLEAR`.
    per_metre : (int, int)
        Pixels a metre across and down.
    bands : iterable of ndarray of uint8, shape (rows, bytes of a row)
        From the top; of one bit a pixel packed, the leftmost in the highest bit.
    """
    if isinstance(target, Path):
        with target.open("wb") as stream:
            write_png(stream, size, kind, per_metre, bands)
        return
    target.write(b"\x89PNG\r\n\x1a\n")
    _chunk(target, b"IHDR", struct.pack(">IIBBBBB", *size, *kind, 0, 0, 0))
    _chunk(target, b"pHYs", struct.pack(">IIB", *per_metre, 1))
    packer = zlib.compressobj(_LEVEL)
    above: NDArray[Any] | None = None
    done = 0
    for band in bands:
        lines = _filtered(band, above) if kind[0] == 8 else _plain(band)
        above = band[-1:]
        _data(target, packer.compress(lines.tobytes()))
        done += len(band)
        tell("Writing the picture", done, size[1])
    _data(target, packer.flush())
    _chunk(target, b"IEND", b"")


def _plain(band: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.pad(band, ((0, 0), (1, 0)))


def _filtered(
    band: NDArray[np.uint8], above: NDArray[np.uint8] | None
) -> NDArray[np.uint8]:
    """Return rows as differences to those above (filter type 2)."""
    first = np.zeros_like(band[:1]) if above is None else above
    return np.pad(band - np.vstack([first, band[:-1]]), ((0, 0), (1, 0)), constant_values=2)


def _data(target: BinaryIO, packed: bytes) -> None:
    if packed:
        _chunk(target, b"IDAT", packed)


def _chunk(target: BinaryIO, name: bytes, data: bytes) -> None:
    target.write(struct.pack(">I", len(data)) + name + data)
    target.write(struct.pack(">I", zlib.crc32(name + data)))
