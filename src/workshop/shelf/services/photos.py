"""Photos that operators take: upright, in colour, no larger than wanted."""

from typing import BinaryIO

from PIL import Image, ImageOps

from engraving.errors import InputError


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
