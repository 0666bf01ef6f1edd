"""Read a large picture a band of rows at a time, so that it is never held in colours.

By libvips, which decodes as it is asked. Pixels are those that Pillow reads (a test holds
the two against one another); what a picture is, its profile and its tags stay Pillow's.
"""

import struct
from dataclasses import dataclass

import numpy as np
import pyvips
from numpy.typing import NDArray
from PIL import Image

from engraving.artwork.colours import is_as_shown, plain_colours
from engraving.artwork.deep import TURNED, turned
from engraving.colour.light import luminance_codes
from engraving.progress import tell
from engraving.strips import in_strips

# Nothing is asked for twice; what it kept would keep files in memory.
pyvips.cache_set_max(0)

Codes = NDArray[np.uint8]

LARGE_PX = 4_000_000
"""Smaller ones are read at once: that costs little."""
_ROWS = 128
_BANDS = {"L": 1, "RGB": 3, "RGBA": 4}
_KINDS = ("PNG", "JPEG", "MPO", "TIFF")
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


@dataclass
class Planes:
    """What was read of a picture, in sRGB.

    Attributes
    ----------
    gray : ndarray of uint8 or uint16, shape (height, width)
    colour : ndarray of uint8, shape (height, width, 3), or None
        None where it was not asked for, and of gray pictures.
    alpha : ndarray of uint8, shape (height, width), or None
        None where nothing is transparent.
    notes : tuple of str
        What was done to it.
    """

    gray: NDArray[np.uint8] | NDArray[np.uint16]
    colour: NDArray[np.uint8] | None
    alpha: NDArray[np.uint8] | None
    notes: tuple[str, ...]

    def upright(self, tag: int) -> "Planes":
        """Return them turned as an orientation says (TIFF 6.0, tag 274)."""
        if tag not in range(2, 9):
            return self
        colour = None if self.colour is None else turned(self.colour, tag)
        alpha = None if self.alpha is None else turned(self.alpha, tag)
        return Planes(turned(self.gray, tag), colour, alpha, (TURNED, *self.notes))


def read_banded(data: bytes, image: Image.Image, *, colour: bool) -> Planes:
    """Return a picture's gray codes and transparency, and its colours if asked for.

    Its bands are mixed to gray while the next ones are decoded.

    Parameters
    ----------
    data : bytes
        The file.
    image : Image
        The same, opened and not decoded.
    colour : bool
        Whether its colours are wanted too.

    Raises
    ------
    OSError
        When the file is damaged or cut short.
    """
    taken = _Bands(image, colour=colour)
    target = pyvips.TargetCustom()
    target.on_write(taken.take)
    try:
        whole = pyvips.Image.new_from_buffer(data, "", access="sequential", fail_on="error")
        if (whole.width, whole.height, whole.bands, whole.format) != (
            *image.size, _BANDS[image.mode], "uchar",
        ):  # fmt: skip
            raise OSError("its parts contradict one another")
        whole.write_to_target(target, ".raw")
    except pyvips.Error as error:
        told = str(error).strip().rpartition("\n")[2]
        # Which of its parts the library names is of no use to anybody.
        raise OSError(told.rpartition(": ")[2].strip()) from None
    return taken.finished()


class _Bands:
    """Takes the rows of a picture as they come in, and fills its planes."""

    def __init__(self, image: Image.Image, *, colour: bool) -> None:
        bands = _BANDS[image.mode]
        self._shape = shape = (image.height, image.width)
        self._gray = np.zeros(shape, np.uint8)
        self._colour = np.zeros((*shape, 3), np.uint8) if colour and bands > 1 else None
        self._alpha: NDArray[np.uint8] | None = None
        self._notes: list[str] = []
        self._of, self._as_shown = image, is_as_shown(image)
        self._waiting = np.zeros((_ROWS, image.width, bands), np.uint8)
        self._bytes = self._waiting.reshape(-1)
        self._held = self._top = 0
        self._fault: Exception | None = None

    def take(self, data: bytes) -> int:
        """Take some bytes of rows; return how many, fewer where something is wrong."""
        try:
            codes = np.frombuffer(data, np.uint8)
            while codes.size:
                some = codes[: self._bytes.size - self._held]
                self._bytes[self._held : self._held + some.size] = some
                self._held += some.size
                codes = codes[some.size :]
                if self._held == self._bytes.size:
                    self._put(_ROWS)
        except Exception as error:  # noqa: BLE001 (told where it was asked for)
            self._fault = error
            return -1
        return len(data)

    def finished(self) -> Planes:
        """Return the planes, with their last rows.

        Raises
        ------
        OSError
            When there are fewer rows than the file says.
        """
        if self._fault is None:
            self._put(self._held // self._waiting[0].size)
        if self._fault is not None:
            raise self._fault
        if self._top != self._shape[0]:
            raise OSError("no more data")
        return Planes(self._gray, self._colour, self._alpha, tuple(self._notes))

    def _put(self, rows: int) -> None:
        """Bring the rows that wait to their places."""
        for codes, seen in self._shown(self._waiting[:rows]):
            self._place(slice(self._top, self._top + len(codes)), codes, seen)
            self._top += len(codes)
        self._held = 0
        tell("Reading the picture", self._top, self._shape[0])

    def _place(self, at: slice, codes: Codes, seen: Codes | None) -> None:
        self._gray[at] = codes if codes.ndim == 2 else luminance_codes(codes)
        if self._colour is not None:
            self._colour[at] = codes
        if seen is not None:
            if self._alpha is None:
                self._alpha = np.full(self._shape, 255, np.uint8)
            self._alpha[at] = seen

    def _shown(self, rows: Codes) -> list[tuple[Codes, Codes | None]]:
        """Return rows in sRGB, of one band or three, and their transparency, in strips."""
        bands = rows.shape[2]
        if self._as_shown:
            seen = rows[..., 3] if bands == 4 and rows[..., 3].min() < 255 else None
            return [(rows[..., 0] if bands == 1 else rows[..., :3], seen)]
        found: dict[int, tuple[Codes, Codes | None]] = {}

        def convert(first: int, last: int) -> None:
            found[first] = self._converted(rows[first:last])

        in_strips(len(rows), convert)
        return [found[first] for first in sorted(found)]

    def _converted(self, rows: Codes) -> tuple[Codes, Codes | None]:
        band = Image.fromarray(rows[..., 0] if rows.shape[2] == 1 else rows)
        band.format, band.info = self._of.format, self._of.info
        notes: list[str] = []
        plain, seen = plain_colours(band, notes)
        self._notes = notes
        return np.asarray(plain), seen
