"""Read a large picture a band of rows at a time, so that it is never held in colours.

By libvips, which decodes as it is asked. Pixels are those that Pillow reads (a test holds
the two against one another); what a picture is, its profile and its tags stay Pillow's.
"""

import struct

import numpy as np
import pyvips
from numpy.typing import NDArray
from PIL import Image

from engraving.artwork.colours import gray_of, plain_colours
from engraving.progress import tell

# Nothing is asked for twice; what it kept would keep files in memory.
pyvips.cache_set_max(0)

LARGE_PX = 8_000_000
"""Smaller ones are held whole: that costs little, and shows their colours at once."""
_ROWS = 256
_BANDS = {"L": 1, "RGB": 3, "RGBA": 4}
_KINDS = ("PNG", "JPEG", "TIFF")
_PLAIN_TIFF = (1, 2)
_PNG = b"\x89PNG\r\n\x1a\n"
_TEXTS, _TELLING = (b"tEXt", b"zTXt", b"iTXt"), (b"Raw profile type", b"XML:com.adobe.xmp")
_PHOTOMETRIC, _ORIENTATION = 262, 274


def is_banded(data: bytes, image: Image.Image) -> bool:
    """Return whether a picture, opened but not decoded, is large and plain enough."""
    if image.width * image.height < LARGE_PX or image.format not in _KINDS:
        return False
    if image.mode not in _BANDS or "transparency" in image.info:
        return False
    if image.format == "TIFF":
        tags = getattr(image, "tag_v2", {})
        upright = tags.get(_ORIENTATION, 1) == 1
        return upright and tags.get(_PHOTOMETRIC) in _PLAIN_TIFF and _pages(image) == 1
    return image.format != "PNG" or not _may_be_turned(data)


def _may_be_turned(data: bytes) -> bool:
    """Whether a PNG has a part that could say so: Pillow reads all of it to find out."""
    at = len(_PNG)
    while at + 8 <= len(data):
        size, kind = struct.unpack_from(">I4s", data, at)
        told = data[at + 8 : at + 8 + min(size, 40)]
        if kind == b"eXIf" or (kind in _TEXTS and told.startswith(_TELLING)):
            return True
        at += size + 12
    return False


def _pages(image: Image.Image) -> int:
    return int(getattr(image, "n_frames", 1))


def read_banded(
    data: bytes, image: Image.Image, notes: list[str]
) -> tuple[NDArray[np.uint8], NDArray[np.uint8] | None]:
    """Return the gray codes of a picture, and its transparency or None.

    Parameters
    ----------
    data : bytes
        The file.
    image : Image
        The same, opened and not decoded.
    notes : list of str
        What is done to its colours is added.

    Raises
    ------
    OSError
        When the file is damaged or cut short.
    """
    planes = _Planes(image)
    target = pyvips.TargetCustom()
    target.on_write(planes.take)
    try:
        whole = pyvips.Image.new_from_buffer(data, "", access="sequential", fail_on="error")
        if (whole.width, whole.height, whole.bands, whole.format) != (
            *image.size, _BANDS[image.mode], "uchar",
        ):  # fmt: skip
            raise OSError("its parts contradict one another")
        whole.write_to_target(target, ".raw")
    except pyvips.Error as error:
        raise OSError(str(error).strip().rpartition("\n")[2]) from None
    planes.finish()
    notes += planes.notes
    return planes.gray, planes.alpha


class _Planes:
    """Gray and transparency, filled as rows come in."""

    def __init__(self, image: Image.Image) -> None:
        self.gray = np.zeros((image.height, image.width), np.uint8)
        self.alpha: NDArray[np.uint8] | None = None
        self.notes: list[str] = []
        self._of = image
        self._row_bytes = image.width * _BANDS[image.mode]
        self._waiting = bytearray()
        self._top = 0
        self._fault: Exception | None = None

    def take(self, data: bytes) -> int:
        """Take some bytes of rows; return how many, fewer where something is wrong."""
        try:
            self._waiting += data
            while len(self._waiting) >= _ROWS * self._row_bytes:
                self._put(_ROWS)
        except Exception as error:  # noqa: BLE001 (told where it was asked for)
            self._fault = error
            return -1
        return len(data)

    def finish(self) -> None:
        """Put the last rows.

        Raises
        ------
        OSError
            When there are fewer than the file says.
        """
        if self._fault is None and (rows := len(self._waiting) // self._row_bytes):
            self._put(rows)
        if self._fault is not None:
            raise self._fault
        if self._top != self.gray.shape[0]:
            raise OSError("no more data")

    def _put(self, rows: int) -> None:
        size = rows * self._row_bytes
        shape = (rows, self.gray.shape[1], _BANDS[self._of.mode])
        pixels = np.frombuffer(bytes(self._waiting[:size]), np.uint8).reshape(shape)
        del self._waiting[:size]
        band = Image.fromarray(pixels[..., 0] if shape[2] == 1 else pixels)
        band.format, band.info = self._of.format, self._of.info
        self.notes = []
        plain, seen = plain_colours(band, self.notes)
        at = slice(self._top, self._top + rows)
        self.gray[at] = gray_of(plain)
        if seen is not None:
            self.alpha = np.full_like(self.gray, 255) if self.alpha is None else self.alpha
            self.alpha[at] = seen
        self._top += rows
        tell("Reading the picture", self._top, self.gray.shape[0])
