"""What is kept of a picture, and how it fills up from one band of rows to the next."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from engraving.artwork.colours import gray_of, is_as_shown, plain_colours
from engraving.artwork.upright import ON_ITS_SIDE, place_turned, turned
from engraving.colour.light import luminance_codes
from engraving.progress import tell
from engraving.strips import in_strips

Codes = NDArray[np.uint8]
Tones = NDArray[np.uint8] | NDArray[np.uint16]

_CLEAR = ("LA", "RGBA")
_PLAIN = ("L", "RGB", *_CLEAR)


@dataclass
class Planes:
    """What was read of a picture, upright and in sRGB.

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

    gray: Tones
    colour: Codes | None
    alpha: Codes | None
    notes: tuple[str, ...]


class Filling:
    """Planes that fill up, so that a picture is never held in the file's own colours.

    Parameters
    ----------
    image : Image
        The picture, opened.
    size : tuple of int
        Its width and height as its rows come in, not yet upright.
    orientation : int
        How it is to be turned (see `orientation_of`).
    colour : bool
        Whether its colours are wanted.
    """

    def __init__(
        self, image: Image.Image, size: tuple[int, int], orientation: int, *, colour: bool
    ) -> None:
        self._of, self._as_shown = image, is_as_shown(image)
        self._orientation, self._colours_wanted = orientation, colour
        across, self._rows = size
        self._shape = size if orientation in ON_ITS_SIDE else (self._rows, across)
        self._top = 0
        self._gray: Any = None
        self._colour: Any = None
        self._alpha: Any = None
        self._notes: list[str] = []

    def put(self, band: Image.Image) -> None:
        """Take the next rows, as Pillow holds them."""
        if band.mode in _PLAIN:
            self.put_codes(np.asarray(band), band.mode)
        else:
            self._place(*self._converted(band))

    def put_codes(self, codes: Codes, mode: str) -> None:
        """Take the next rows, in one of Pillow's modes of eight bits."""
        for plain, seen in self._shown(codes, mode):
            self._place(plain, seen)

    def finished(self) -> Planes:
        """Return the planes.

        Raises
        ------
        OSError
            When rows are missing.
        """
        if self._top != self._rows:
            raise OSError("no more data")
        return Planes(self._gray, self._colour, self._alpha, tuple(self._notes))

    def _shown(self, codes: Codes, mode: str) -> Iterator[tuple[Tones, Codes | None]]:
        """Yield rows in sRGB, of one channel or three, and their transparency."""
        if self._as_shown and mode in _PLAIN:
            clear = mode in _CLEAR and codes[..., -1].min() < 255
            colour = codes[..., :3] if mode.startswith("RGB") else codes
            plain = codes[..., 0] if mode == "LA" else colour
            yield plain, codes[..., -1] if clear else None
            return
        found: dict[int, tuple[Tones, Codes | None]] = {}

        def convert(first: int, last: int) -> None:
            found[first] = self._converted(_picture(codes[first:last], mode))

        in_strips(len(codes), convert)
        yield from (found[first] for first in sorted(found))

    def _converted(self, band: Image.Image) -> tuple[Tones, Codes | None]:
        band.format, band.info = self._of.format, self._of.info
        notes: list[str] = []
        plain, seen = plain_colours(band, notes)
        self._notes = notes
        return np.asarray(plain) if plain.mode == "RGB" else gray_of(plain), seen

    def _place(self, plain: Tones, seen: Codes | None) -> None:
        """Bring rows to their places."""
        coloured = plain.ndim == 3
        gray = luminance_codes(np.asarray(plain, np.uint8)) if coloured else plain
        self._gray = self._with(self._gray, gray)
        if coloured and self._colours_wanted:
            self._colour = self._with(self._colour, plain)
        if seen is not None:
            self._alpha = self._with(self._alpha, seen, elsewhere=255)
        self._top += len(plain)
        tell("Reading the picture", self._top, self._rows)

    def _with(self, plane: Any, band: NDArray[Any], elsewhere: int = 0) -> NDArray[Any]:
        """Return a plane with a band of rows in it."""
        if len(band) == self._rows:
            return np.ascontiguousarray(turned(band, self._orientation))
        if plane is None:
            plane = np.full((*self._shape, *band.shape[2:]), elsewhere, band.dtype)
        place_turned(plane, band, self._top, self._orientation)
        return np.asarray(plane)


def _picture(codes: Codes, mode: str) -> Image.Image:
    height, width = codes.shape[:2]
    return Image.frombuffer(mode, (width, height), codes, "raw", mode, 0, 1)
