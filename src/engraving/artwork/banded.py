"""Read a picture a band of rows at a time, so that it is never held in colours.

Large ones by libvips, which decodes as it is asked, or as they lie in the file where
nothing is packed. Pixels are those that Pillow reads (a test holds the ways against one
another); what a picture is, its profile and its tags stay Pillow's. What neither takes
Pillow decodes whole, and it is mixed from there in bands.
"""

import io
import re
from typing import Any

import numpy as np
import pillow_heif
import pyvips
from PIL import Image

from engraving.artwork.colours import SIXTEEN_BIT
from engraving.artwork.planes import Filling, Planes

# Nothing is asked for twice; what it kept would keep files in memory.
pyvips.cache_set_max(0)

LARGE_PX = 4_000_000
"""Smaller ones are read at once: that costs little."""
_ROWS = 128
_MODES = {"1": ("L",), "P": ("RGB", "RGBA"), "LA": ("LA",), "L": ("L",), "RGB": ("RGB",),
          "RGBA": ("RGBA",), "CMYK": ("CMYK",)}  # fmt: skip
"""Of each of Pillow's modes, as which libvips may hand its rows over."""
_IN_ORDER = ("L", "RGB", "RGBA")
_KINDS = ("PNG", "JPEG", "MPO", "TIFF", "WEBP")
_PHOTOMETRIC, _EXTRA_SAMPLES = 262, 338
_PLAIN_TIFF = (0, 1, 2, 3, 5)
_APART_FROM_COLOURS = 2


def read_planes(
    data: bytes, image: Image.Image, orientation: int, *, colour: bool, page: int = 0
) -> Planes:
    """Return a picture's gray codes and transparency, and its colours if asked for.

    Parameters
    ----------
    data : bytes
        The file.
    image : Image
        The same, opened at the page, and not decoded.
    orientation : int
        How it is to be turned (see `orientation_of`).
    colour : bool
        Whether its colours are wanted too.
    page : int
        Which of the file's pages it is, from 0.

    Raises
    ------
    OSError
        When the file is damaged or cut short.
    """
    if image.width * image.height >= LARGE_PX:
        decoding = _asked_for(data, image, page)
        if decoding is not None:
            size = (decoding.width, decoding.height)
            filling = Filling(image, size, orientation, colour=colour)
            return _decoded(decoding, filling, _mode_of(image, decoding))
        if _is_as_it_lies(image):
            filling = Filling(image, image.size, orientation, colour=colour)
            return _as_it_lies(data, image, filling)
        if image.format == "HEIF" and image.mode in _IN_ORDER:
            return _frame(data, image, orientation, colour=colour)
    image.load()
    # A TIFF is turned by this.
    left = 1 if image.format == "TIFF" else orientation
    return _at_once(image, Filling(image, image.size, left, colour=colour))


def _at_once(image: Image.Image, filling: Filling) -> Planes:
    """Return the planes of a picture that is decoded."""
    small = image.width * image.height < LARGE_PX
    rows = image.height if small or image.mode in (*SIXTEEN_BIT, "F") else _ROWS
    for top in range(0, image.height, rows):
        below = min(top + rows, image.height)
        whole = rows == image.height
        filling.put(image if whole else image.crop((0, top, image.width, below)))
    return filling.finished()


def _is_as_it_lies(image: Image.Image) -> bool:
    """Whether the rows lie in the file one after another, unpacked."""
    tiles: list[Any] = getattr(image, "tile", [])
    return image.format == "BMP" and len(tiles) == 1 and tiles[0].codec_name == "raw"


def _as_it_lies(data: bytes, image: Image.Image, filling: Filling) -> Planes:
    _, _, first, told = image.tile[0]  # type: ignore[attr-defined]
    raw, stride, direction = told
    for top in range(0, image.height, _ROWS):
        rows = min(_ROWS, image.height - top)
        at = image.height - top - rows if direction < 0 else top
        lying = data[first + at * stride : first + (at + rows) * stride]
        band = Image.frombytes(
            image.mode, (image.width, rows), lying, "raw", raw, stride, direction
        )
        if image.palette is not None:
            band.palette = image.palette.copy()
        filling.put(band)
    return filling.finished()


def _frame(data: bytes, image: Image.Image, orientation: int, *, colour: bool) -> Planes:
    """Return the planes of a HEIC picture without Pillow's copy of it.

    Decoded whole all the same: what reads it does no part of one.
    """
    frame = pillow_heif.open_heif(io.BytesIO(data))[image.tell()]
    codes, (across, rows) = np.asarray(frame), frame.size
    filling = Filling(image, (across, rows), orientation, colour=colour)
    for top in range(0, rows, _ROWS):
        filling.put_codes(
            np.ascontiguousarray(codes[top : top + _ROWS, :across]), frame.mode
        )
    return filling.finished()


def _asked_for(data: bytes, image: Image.Image, page: int) -> pyvips.Image | None:
    """Return what decodes a picture as it is asked, None where it would not be the same."""
    if not _is_plain(image):
        return None
    told = {"page": page} if image.format == "TIFF" else {}
    try:
        found = pyvips.Image.new_from_buffer(
            data, "", access="sequential", fail_on="error", **told
        )
    except pyvips.Error:
        return None  # Pillow says what is wrong.
    # Upright or not: of a TIFF Pillow tells what it will be.
    alike = sorted(image.size) == sorted((found.width, found.height))
    same = found.format == "uchar" and _mode_of(image, found)
    return found if alike and same else None


def _mode_of(image: Image.Image, decoding: pyvips.Image) -> str:
    """Return the mode of the rows that come, empty where it is none that was expected."""
    modes = _MODES[image.mode]
    return next((one for one in modes if Image.getmodebands(one) == decoding.bands), "")


def _is_plain(image: Image.Image) -> bool:
    if image.format not in _KINDS or image.mode not in _MODES:
        return False
    if "transparency" in image.info and image.mode != "P":
        return False
    if image.format == "WEBP":
        return not getattr(image, "is_animated", False)
    if image.format == "TIFF":
        tags = getattr(image, "tag_v2", {})
        extra = tags.get(_EXTRA_SAMPLES, (_APART_FROM_COLOURS,))
        return tags.get(_PHOTOMETRIC) in _PLAIN_TIFF and extra == (_APART_FROM_COLOURS,)
    return image.mode != "CMYK" or "adobe" in image.info


def _decoded(decoding: pyvips.Image, filling: Filling, mode: str) -> Planes:
    """Return planes filled as the rows come in: mixed while the next ones are decoded."""
    rows = _Rows(decoding, filling, mode)
    target = pyvips.TargetCustom()
    target.on_write(rows.take)
    try:
        decoding.write_to_target(target, ".raw")
    except pyvips.Error as error:
        if rows.fault is not None:
            raise rows.fault from None
        told = str(error).strip().rpartition("\n")[2]
        # Which library found it, and in which of its parts, is of no use to anybody.
        told = told.rpartition(": ")[2].strip()
        raise OSError(re.sub(r"^lib\w+ ", "", told)) from None
    rows.hand_on()
    return filling.finished()


class _Rows:
    """Takes the bytes of rows as they come in, and hands them on when there are enough."""

    def __init__(self, decoding: pyvips.Image, filling: Filling, mode: str) -> None:
        self.fault: Exception | None = None
        self._filling, self._mode = filling, mode
        shape = (_ROWS, decoding.width, decoding.bands)
        self._waiting = np.zeros(shape, np.uint8)
        self._bytes = self._waiting.reshape(-1)
        self._held = 0

    def take(self, data: bytes) -> int:
        """Take some bytes; return how many, fewer where something is wrong."""
        try:
            codes = np.frombuffer(data, np.uint8)
            while codes.size:
                some = codes[: self._bytes.size - self._held]
                self._bytes[self._held : self._held + some.size] = some
                self._held += some.size
                codes = codes[some.size :]
                if self._held == self._bytes.size:
                    self.hand_on()
        except Exception as error:  # noqa: BLE001 (told where it was asked for)
            self.fault = error
            return -1
        return len(data)

    def hand_on(self) -> None:
        """Bring the rows that wait to their places."""
        if not self._held:
            return
        rows = self._waiting[: self._held // self._waiting[0].size]
        self._filling.put_codes(rows[..., 0] if rows.shape[2] == 1 else rows, self._mode)
        self._held = 0
