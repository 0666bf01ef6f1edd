"""Open a picture file, hold it against limits, and say what was found."""

import io
import struct
import warnings
import zlib
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
import pillow_heif
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from engraving.artwork.banded import read_planes
from engraving.artwork.colours import describe
from engraving.artwork.deep import Deep, deep_page
from engraving.artwork.dotted import LIKELY, dotted_odds
from engraving.artwork.levels import is_two_level, smeared_dots
from engraving.artwork.likeness import LIKENESS_PX, likeness_of
from engraving.artwork.planes import Planes
from engraving.artwork.upright import ON_ITS_SIDE, TURNED, orientation_of
from engraving.errors import ArtworkError
from engraving.jobspec.job_file import LARGEST_FILE
from engraving.units import MM_PER_INCH

MOST_PIXELS = 400_000_000
FORMATS = ("PNG", "JPEG", "TIFF", "BMP", "WEBP", "GIF", "HEIF")

# Pillow refuses twice this number; up to it, a picture's header is only a header.
Image.MAX_IMAGE_PIXELS = MOST_PIXELS // 2
pillow_heif.register_heif_opener()

_MM_PER_UNIT = {2: MM_PER_INCH, 3: 10.0}
_SPOKEN = {"MPO": "JPEG", "HEIF": "HEIC"}
_ONE_PICTURE = ("MPO",)
"""Formats whose further pictures are not pages: a camera's depth map or preview."""
_HALF_CLEAR = 127
_CLEAR = "Parts of it are transparent."


@dataclass(frozen=True)
class Artwork:
    """A picture as read.

    Attributes
    ----------
    gray : ndarray of uint8 or uint16, shape (height, width)
        sRGB-coded luminance, 0 black, row 0 the top; read-only. Sixteen bits
        where the file holds sixteen.
    format : str
        File format, such as ``"PNG"``.
    mode : str
        What the file holds, in words.
    dpi : tuple of float or None
        Embedded resolution across and down, None when the file has none.
    notes : tuple of str
        What was done to the picture on the way in, one sentence each.
    two_level : bool
        Whether only two gray codes (or nearly) occur.
    smeared : bool
        Whether it was made of dots that lossy compression has blurred.
    alpha : ndarray of uint8, shape (height, width), or None
        255 opaque; None where nothing is transparent.
    colour : ndarray of uint8, shape (height, width, 3), or None
        The sRGB colours, where they were asked for and exist.
    pages : int
        How many pages or frames the file has.
    dotted : bool
        Whether it is made of dots already, as no flat line art is.
    """

    gray: NDArray[np.uint8] | NDArray[np.uint16]
    format: str
    mode: str
    dpi: tuple[float, float] | None
    notes: tuple[str, ...]
    two_level: bool
    smeared: bool = False
    alpha: NDArray[np.uint8] | None = None
    colour: NDArray[np.uint8] | None = None
    pages: int = 1
    dotted: bool = False

    @property
    def width_px(self) -> int:
        """Width in pixels."""
        return int(self.gray.shape[1])

    @property
    def height_px(self) -> int:
        """Height in pixels."""
        return int(self.gray.shape[0])

    @property
    def opaque(self) -> float | None:
        """Share of the picture that is opaque, 0..1; None where nothing is transparent."""
        if self.alpha is None:
            return None
        seen = sum(np.count_nonzero(row > _HALF_CLEAR) for row in self.alpha)
        return float(seen) / self.alpha.size


@dataclass
class Opened:
    """A decoded page: upright, in sRGB, its transparency apart."""

    planes: Planes
    format: str
    mode: str
    dpi: tuple[float, float] | None
    pages: int

    def artwork(self, *, colour: bool = False) -> Artwork:
        """Return the gray plane and all that is known of it; colours when asked for."""
        gray, alpha, notes = self.planes.gray, self.planes.alpha, self.planes.notes
        gray.setflags(write=False)
        two_level = is_two_level(gray)
        smeared = self.format in ("JPEG", "WEBP", "HEIC") and smeared_dots(gray)
        two_level = two_level and not smeared
        odds = dotted_odds(np.asarray(gray, np.uint8)) if two_level else 0.0
        if alpha is not None:
            notes = (*notes, _CLEAR)
        if two_level:
            notes = (*notes, _taken_for(odds))
        return Artwork(
            gray,
            self.format,
            self.mode,
            self.dpi,
            notes,
            two_level,
            smeared,
            alpha,
            self.planes.colour if colour else None,
            self.pages,
            odds >= LIKELY,
        )

    def likeness(self, longest_px: int = LIKENESS_PX) -> NDArray[np.uint8]:
        """Return RGBA codes no longer than `longest_px`, shape (height, width, 4)."""
        planes = self.planes
        return likeness_of(planes.gray, planes.colour, planes.alpha, longest_px)


def _taken_for(odds: float) -> str:
    what = "dots" if odds >= LIKELY else "line art"
    return f"Taken for {what}, {100 * max(odds, 1 - odds):.0f} % sure."


DECODER_FAULTS = (
    OSError, SyntaxError, ValueError, EOFError, MemoryError, TypeError, RuntimeError,
    AttributeError, LookupError, ArithmeticError, AssertionError, struct.error, zlib.error,
)  # fmt: skip
"""All that decoders were seen to raise for files whose bytes are not what they say."""


def read_artwork(
    source: Path | bytes | BinaryIO, page: int = 0, *, colour: bool = False
) -> Artwork:
    """Read a page of a PNG, JPEG, TIFF, BMP, WebP, GIF or HEIC picture.

    The file's orientation tag is applied, an embedded profile converted to
    sRGB; colours become luminance in linear light, sRGB-coded. Transparency
    is kept apart.

    Raises
    ------
    ArtworkError
        When the file is empty, cut short, no picture, too large, or lacks the page.
    """
    return open_picture(source, page, gray=not colour).artwork(colour=colour)


def open_picture(
    source: Path | bytes | BinaryIO, page: int = 0, *, gray: bool = False
) -> Opened:
    """Return a page of a file, decoded; where its gray is enough, of a large one no more.

    Raises
    ------
    ArtworkError
        See `read_artwork`.
    """
    data = _data(source)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            return _decode(data, page, gray=gray)
        except Image.DecompressionBombError:
            raise ArtworkError(_too_large()) from None
        except UnidentifiedImageError:
            raise ArtworkError(
                "This file is not a picture that can be read; use "
                "PNG, JPEG, TIFF, BMP, WebP, GIF or HEIC."
            ) from None
        except DECODER_FAULTS as error:
            raise ArtworkError(
                "The picture is damaged or cut short "
                f"({str(error).rstrip('.') or 'no more data'}); export it again."
            ) from None


def _decode(data: bytes, page: int, *, gray: bool) -> Opened:
    deep = deep_page(data, page, MOST_PIXELS)
    if deep is not None:
        return _opened_deep(deep)
    image = Image.open(io.BytesIO(data), formats=FORMATS)
    _refuse_giants(image)
    kind = image.format or "picture"
    pages = 1 if kind in _ONE_PICTURE else int(getattr(image, "n_frames", 1))
    if not 0 <= page < pages:
        raise ArtworkError(
            f"The file has {pages} page{'s' if pages > 1 else ''}; "
            f"there is no page {page + 1}."
        )
    if page:
        image.seek(page)
        _refuse_giants(image)
    dpi, mode = _embedded_dpi(image), describe(image)
    tag = orientation_of(image, data)
    if tag in ON_ITS_SIDE and dpi:
        dpi = (dpi[1], dpi[0])
    planes = read_planes(data, image, tag, colour=not gray, page=page)
    if tag in range(2, 9):
        planes.notes = (TURNED, *planes.notes)
    return Opened(planes, _SPOKEN.get(kind, kind), mode, dpi, pages)


def _opened_deep(deep: Deep) -> Opened:
    """Return a page of more than eight bits a sample."""
    told = deep.told
    dpi = _density(told) if deep.format == "TIFF" else _usable(told.get("dpi"))
    if deep.on_its_side and dpi:
        dpi = (dpi[1], dpi[0])
    colour, gray = deep.planes()
    planes = Planes(gray, colour, deep.alpha, tuple(deep.notes))
    return Opened(planes, deep.format, deep.mode, dpi, deep.pages)


def _data(source: Path | bytes | BinaryIO) -> bytes:
    if isinstance(source, Path):
        if not source.is_file():
            raise ArtworkError(f"There is no file “{source.name}”.")
        source = source.read_bytes()
    data = source if isinstance(source, bytes) else source.read()
    if not data:
        raise ArtworkError("The file is empty.")
    if len(data) > LARGEST_FILE:
        raise ArtworkError(
            f"The file is larger than {LARGEST_FILE // 2**20} MB; save a smaller picture."
        )
    return data


def _refuse_giants(image: Image.Image) -> None:
    if image.width * image.height > MOST_PIXELS:
        raise ArtworkError(f"{_too_large()} It is {image.width} × {image.height} pixels.")


def _too_large() -> str:
    return (
        f"The picture has more than {MOST_PIXELS // 1_000_000} million pixels; "
        "save a smaller one."
    )


def _embedded_dpi(image: Image.Image) -> tuple[float, float] | None:
    """Return the density across and down, None without a physical unit.

    PNG pHYs unit 0 and JFIF unit 0 give an aspect only: no physical size.
    """
    if image.format == "JPEG" and image.info.get("jfif_unit", 1) == 0:
        return None
    if image.format == "TIFF":
        return _tiff_dpi(image)
    return _usable(image.info.get("dpi"))


def _usable(found: Any) -> tuple[float, float] | None:
    """Return a density that a picture can have, None of others and of none."""
    if not found:
        return None
    across, down = (float(value) for value in found)
    usable = 1 <= across < 1e5 and 1 <= down < 1e5
    return (across, down) if usable else None


def _tiff_dpi(image: Image.Image) -> tuple[float, float] | None:
    return _density(getattr(image, "tag_v2", {}))


def _density(tags: Any) -> tuple[float, float] | None:
    """Return a TIFF's density by its tags (TIFF 6.0, 282, 283 and 296)."""
    unit = _MM_PER_UNIT.get(int(tags.get(296, 2)))
    across, down = (_ratio(tags.get(tag)) for tag in (282, 283))
    if not (unit and across and down):
        return None
    return across * MM_PER_INCH / unit, down * MM_PER_INCH / unit


def _ratio(value: Any) -> float:
    """Return a rational, however it was read; 0 where there is none."""
    if isinstance(value, tuple):
        return value[0] / value[1] if len(value) == 2 and value[1] else 0.0
    return float(value) if value else 0.0
