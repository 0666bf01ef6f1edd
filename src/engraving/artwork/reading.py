"""Read a picture file into a plane of gray codes, and say what was found."""

import io
import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError

from engraving.artwork.light import luminance_codes
from engraving.errors import ArtworkError
from engraving.units import MM_PER_INCH

MOST_PIXELS = 400_000_000
LARGEST_FILE = 200 * 1024 * 1024
FORMATS = ("PNG", "JPEG", "TIFF", "BMP", "WEBP")

# Pillow refuses twice this number; up to it, a picture's header is only a header.
Image.MAX_IMAGE_PIXELS = MOST_PIXELS // 2

_MM_PER_UNIT = {2: MM_PER_INCH, 3: 10.0}
_BAND_ROWS = 256
_HIGH_BYTE = 256
_SIXTEEN_BIT = ("I;16", "I;16B", "I;16L", "I;16N", "I")


@dataclass(frozen=True)
class Artwork:
    """A picture as read.

    Attributes
    ----------
    gray : ndarray of uint8, shape (height, width)
        sRGB-coded luminance, 0 black, row 0 the top; read-only.
    format : str
        File format, such as ``"PNG"``.
    mode : str
        What the file holds, in words.
    dpi : tuple of float or None
        Embedded resolution across and down, None when the file has none.
    notes : tuple of str
        What was done to the picture on the way in, one sentence each.
    two_level : bool
        Whether only two gray codes (or nearly) occur: it is made of dots already.
    """

    gray: NDArray[np.uint8]
    format: str
    mode: str
    dpi: tuple[float, float] | None
    notes: tuple[str, ...]
    two_level: bool

    @property
    def width_px(self) -> int:
        """Width in pixels."""
        return int(self.gray.shape[1])

    @property
    def height_px(self) -> int:
        """Height in pixels."""
        return int(self.gray.shape[0])


def read_artwork(source: Path | bytes | BinaryIO) -> Artwork:
    """Read a PNG, JPEG, TIFF, BMP or WebP picture.

    The file's orientation tag is applied, transparency is flattened on white,
    colours become luminance in linear light, sRGB-coded.

    Raises
    ------
    ArtworkError
        When the file is empty, cut short, no picture, or too large.
    """
    image, notes = open_picture(source)
    kind, dpi = image.format or "picture", _embedded_dpi(image)
    mode = _describe(image)
    turned = _oriented(image, notes)
    if turned.size != image.size and dpi:
        dpi = (dpi[1], dpi[0])
    gray = _gray_plane(turned, notes)
    gray.setflags(write=False)
    return Artwork(gray, kind, mode, dpi, tuple(notes), _is_two_level(gray))


def open_picture(source: Path | bytes | BinaryIO) -> tuple[Image.Image, list[str]]:
    """Return the first picture of a file, loaded, and notes on it.

    Raises
    ------
    ArtworkError
        See `read_artwork`.
    """
    stream = _stream(source)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            image = Image.open(stream, formats=FORMATS)
            _refuse_giants(image)
            image.load()
        except Image.DecompressionBombError:
            raise ArtworkError(_too_large()) from None
        except UnidentifiedImageError:
            raise ArtworkError(
                f"This file is not a picture that can be read; use {', '.join(FORMATS)}."
            ) from None
        except (OSError, SyntaxError, ValueError, EOFError, MemoryError) as error:
            raise ArtworkError(
                "The picture is damaged or cut short "
                f"({str(error).rstrip('.') or 'no more data'}); export it again."
            ) from None
    notes = []
    if getattr(image, "n_frames", 1) > 1:
        notes.append(f"Only the first of {image.n_frames} pictures is used.")  # type: ignore[attr-defined]
    return image, notes


def colour_proxy(source: Path | bytes | BinaryIO, longest_px: int) -> Image.Image:
    """Return an upright RGB picture no longer than `longest_px`, to look at.

    Shrunk by area average in sRGB codes: it is shown, never burned.
    """
    image, notes = open_picture(source)
    image = _oriented(image, notes)
    if image.mode in _SIXTEEN_BIT:
        return Image.fromarray(_gray_plane(image, notes)).convert("RGB")
    scale = max(image.size) / longest_px
    if scale > 1 and image.mode in ("RGB", "L"):
        size = (max(1, round(image.width / scale)), max(1, round(image.height / scale)))
        image = image.resize(size, Image.Resampling.BOX, reducing_gap=None)
    return _flatten(image, notes).convert("RGB")


def _stream(source: Path | bytes | BinaryIO) -> BinaryIO:
    if isinstance(source, Path):
        if not source.is_file():
            raise ArtworkError(f"There is no file “{source.name}”.")
        source = source.read_bytes()
    if isinstance(source, bytes):
        if not source:
            raise ArtworkError("The file is empty.")
        if len(source) > LARGEST_FILE:
            raise ArtworkError(
                f"The file is larger than {LARGEST_FILE // 2**20} MB; "
                "save a smaller picture."
            )
        return io.BytesIO(source)
    return source


def _refuse_giants(image: Image.Image) -> None:
    if image.width * image.height > MOST_PIXELS:
        raise ArtworkError(f"{_too_large()} It is {image.width} × {image.height} pixels.")


def _too_large() -> str:
    return (
        f"The picture has more than {MOST_PIXELS // 1_000_000} million pixels; "
        "save a smaller one."
    )


def _oriented(image: Image.Image, notes: list[str]) -> Image.Image:
    try:
        orientation = image.getexif().get(0x0112, 1)
    except (OSError, ValueError, SyntaxError):
        return image
    if orientation in range(2, 9):
        notes.append("Turned upright as the camera recorded.")
        return ImageOps.exif_transpose(image)
    return image


def _embedded_dpi(image: Image.Image) -> tuple[float, float] | None:
    """Return the density across and down, None without a physical unit.

    PNG pHYs unit 0 and JFIF unit 0 give an aspect only: no physical size.
    """
    if image.format == "JPEG" and image.info.get("jfif_unit", 1) == 0:
        return None
    if image.format == "TIFF":
        return _tiff_dpi(image)
    found = image.info.get("dpi")
    if not found:
        return None
    across, down = (float(value) for value in found)
    usable = 1 <= across < 1e5 and 1 <= down < 1e5
    return (across, down) if usable else None


def _tiff_dpi(image: Image.Image) -> tuple[float, float] | None:
    tags = getattr(image, "tag_v2", {})
    unit = _MM_PER_UNIT.get(int(tags.get(296, 2)))
    across, down = tags.get(282), tags.get(283)
    if not (unit and across and down):
        return None
    return float(across) * MM_PER_INCH / unit, float(down) * MM_PER_INCH / unit


def _describe(image: Image.Image) -> str:
    if image.mode in _SIXTEEN_BIT:
        return "gray, 16 bit"
    words = {
        "1": "two levels",
        "L": "gray",
        "LA": "gray with transparency",
        "P": "palette",
        "PA": "palette with transparency",
        "RGB": "colour",
        "RGBA": "colour with transparency",
        "CMYK": "print colours (CMYK)",
    }
    return words.get(image.mode, image.mode)


def _flatten(image: Image.Image, notes: list[str]) -> Image.Image:
    """Put a picture with transparency on white, as every viewer does."""
    if "transparency" in image.info and image.mode in ("P", "L", "RGB", "1"):
        image = image.convert("RGBA")
    if image.mode in ("PA", "La", "RGBa"):
        image = image.convert("RGBA")
    if image.mode not in ("RGBA", "LA"):
        return image
    plain = "RGB" if image.mode == "RGBA" else "L"
    lowest = image.getchannel("A").getextrema()[0]
    if lowest == 255:
        return image.convert(plain)
    notes.append("Transparent parts were put on white.")
    ground = Image.new(plain, image.size, "white")
    ground.paste(image.convert(plain), mask=image.getchannel("A"))
    return ground


def _gray_plane(image: Image.Image, notes: list[str]) -> NDArray[np.uint8]:
    if image.mode in _SIXTEEN_BIT:
        wide = np.asarray(image, dtype=np.int64).clip(0, 65535)
        # 65535 / 255 = 257 exactly, so codes map onto codes.
        return ((wide + 128) // 257).astype(np.uint8)
    image = _flatten(image, notes)
    if image.mode == "F":
        values = np.nan_to_num(np.asarray(image, np.float32), nan=255.0)
        notes.append("Decimal pixels were taken as codes 0 to 255.")
        return np.rint(values.clip(0, 255)).astype(np.uint8)
    if image.mode in ("1", "L"):
        return np.array(image.convert("L"))
    if image.mode == "CMYK":
        notes.append("Print colours were converted without a profile.")
    return _mix(image.convert("RGB"))


def _mix(image: Image.Image) -> NDArray[np.uint8]:
    """Return luminance codes, in bands so that no second full copy is made."""
    gray = np.zeros((image.height, image.width), np.uint8)
    for top in range(0, image.height, _BAND_ROWS):
        bottom = min(top + _BAND_ROWS, image.height)
        band = np.asarray(image.crop((0, top, image.width, bottom)))
        gray[top:bottom] = luminance_codes(band)
    return gray


def _is_two_level(gray: NDArray[np.uint8]) -> bool:
    """Whether nearly all pixels are one of two codes far apart.

    Nearly: 99.5 % within 2 codes of the two commonest extremes. A blank
    picture is not made of dots.
    """
    counts = np.bincount(gray.ravel()[: 1 << 24], minlength=_HIGH_BYTE)
    used = np.flatnonzero(counts)
    low, high = int(used[0]), int(used[-1])
    if high - low < 64:
        return False
    near = counts[low : low + 3].sum() + counts[high - 2 : high + 1].sum()
    return bool(near >= 0.995 * counts.sum())
