"""Photos that operators take: upright, in colour, no larger than wanted."""

import hashlib
import io
from collections.abc import Callable
from pathlib import Path
from typing import Any, BinaryIO

from PIL import Image, ImageOps

from engraving.errors import InputError

MOST_BYTES = 60_000_000


def hold_size(size: int) -> None:
    """Refuse a photo that is larger than any camera's.

    Raises
    ------
    InputError
    """
    if size > MOST_BYTES:
        raise InputError(
            f"The photo is larger than {MOST_BYTES // 1_000_000} MB.", field="photo"
        )


def read_photo(stream: BinaryIO, longest_px: int) -> Image.Image:
    """Return a photo as its camera meant it.

    Raises
    ------
    InputError
        When it is no picture.
    """
    try:
        image = ImageOps.exif_transpose(Image.open(stream)).convert("RGB")
        image.thumbnail((longest_px, longest_px))
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise InputError(
            "The photo cannot be read; use JPEG or PNG.", field="photo"
        ) from None
    return image


def keep_image(
    image: Image.Image,
    path_of: Callable[[str], Path],
    kind: str = "JPEG",
) -> str:
    """Write an image, JPEG or PNG, where its SHA-256 says, and return that."""
    how: dict[str, Any] = {"quality": 88} if kind == "JPEG" else {"compress_level": 1}
    stream = io.BytesIO()
    image.save(stream, kind, **how)
    key = hashlib.sha256(stream.getvalue()).hexdigest()
    path = path_of(key)
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(stream.getvalue())
    return key
