"""Turn a picture upright as its orientation says (TIFF 6.0, tag 274)."""

import io
import struct
import zlib
from collections.abc import Callable, Iterator
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

TAG = 274
ON_ITS_SIDE = (5, 6, 7, 8)
"""Orientations that change rows and columns over."""
TURNED = "Turned upright as the camera recorded."
_FROM_THE_END = (3, 4, 6, 7)
_PNG = b"\x89PNG\r\n\x1a\n"
_TELLING = (b"eXIf", b"tEXt", b"zTXt", b"iTXt")


def turned(plane: NDArray[Any], orientation: int) -> NDArray[Any]:
    """Return a plane upright; shape (height, width) or (height, width, channels)."""
    way = _UPRIGHT.get(orientation)
    return plane if way is None else np.asarray(way(plane))


# By OpenCV, which turns in blocks: a fifth of the time that a turned view takes to copy.
_UPRIGHT: dict[int, Callable[[Any], Any]] = {
    2: lambda p: cv2.flip(p, 1),
    3: lambda p: cv2.rotate(p, cv2.ROTATE_180),
    4: lambda p: cv2.flip(p, 0),
    5: cv2.transpose,
    6: lambda p: cv2.rotate(p, cv2.ROTATE_90_CLOCKWISE),
    7: lambda p: cv2.transpose(cv2.rotate(p, cv2.ROTATE_180)),
    8: lambda p: cv2.rotate(p, cv2.ROTATE_90_COUNTERCLOCKWISE),
}


def place_turned(
    whole: NDArray[Any], band: NDArray[Any], top: int, orientation: int
) -> None:
    """Write a band of rows where it lies in the picture once that is upright.

    Parameters
    ----------
    whole : ndarray
        The upright picture's plane.
    band : ndarray
        Rows of it as they are in the file.
    top : int
        Which row of the file's the first one is.
    orientation : int
        Any other than 1 to 8 is 1.
    """
    sideways = orientation in ON_ITS_SIDE
    rows = whole.shape[1 if sideways else 0]
    if orientation in _FROM_THE_END:
        top = rows - top - len(band)
    at = slice(top, top + len(band))
    whole[(slice(None), at) if sideways else at] = turned(band, orientation)


def orientation_of(image: Image.Image, data: bytes) -> int:
    """Return the orientation that a file records, 1 where it says none.

    Parameters
    ----------
    image : Image
        The file, opened.
    data : bytes
        The same. Of a PNG Pillow looks behind the picture too, and decodes all of it to
        get there: it is shown the same file without its picture.
    """
    try:
        if image.format == "PNG":
            image = Image.open(io.BytesIO(_without_picture(data)), formats=["PNG"])
        return int(image.getexif().get(TAG, 1))
    except (OSError, ValueError, SyntaxError, TypeError, struct.error):
        return 1


def _without_picture(data: bytes) -> bytes:
    """Return a PNG of one pixel that tells what another tells."""
    head = struct.pack(">IIBBBBB", 1, 1, 8, 0, 0, 0, 0)
    pixel = _part(b"IDAT", zlib.compress(b"\0\0"))
    end = _part(b"IEND", b"")
    return b"".join([_PNG, _part(b"IHDR", head), *_telling(data), pixel, end])


def _part(kind: bytes, data: bytes) -> bytes:
    checked = kind + data
    return struct.pack(">I", len(data)) + checked + struct.pack(">I", zlib.crc32(checked))


def _telling(data: bytes) -> Iterator[bytes]:
    """Yield the parts of a PNG that may say how it is turned (ISO/IEC 15948, 5.3)."""
    at = len(_PNG)
    while at + 8 <= len(data):
        size, kind = struct.unpack_from(">I4s", data, at)
        end = at + size + 12
        if kind in _TELLING:
            yield data[at:end]
        at = end
