"""From a file's own colours to sRGB and gray; transparency is kept apart."""

import io
from contextlib import suppress
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms

from engraving.artwork.deep import png_gamma
from engraving.colour.light import to_coded

SIXTEEN_BIT = ("I;16", "I;16B", "I;16L", "I;16N", "I")
_WHITE_IS_ZERO = 0
_PHOTOMETRIC = 262

_SRGB = ImageCms.createProfile("sRGB")
_FLAGS = ImageCms.Flags.BLACKPOINTCOMPENSATION
_WITH_PROFILE = ("RGB", "L", "CMYK", "LAB")


def describe(image: Image.Image) -> str:
    """Return in words what kind of pixels a file holds."""
    if image.mode in SIXTEEN_BIT:
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
        "LAB": "Lab colours",
    }
    return words.get(image.mode, image.mode)


def plain_colours(
    image: Image.Image, notes: list[str]
) -> tuple[Image.Image, NDArray[np.uint8] | None]:
    """Return a picture of mode L, RGB or 16-bit gray in sRGB, and its transparency.

    An embedded profile is applied (relative colorimetric, black point
    compensated). Print colours without one are taken as
    ``R = (1 - C)(1 - K)`` and so on, which every note says.
    """
    told = image.info if image.format == "PNG" else {}
    profile = image.info.get("icc_profile")
    image, alpha = _without_alpha(image)
    if image.mode in SIXTEEN_BIT:
        if profile:
            notes.append("Its 16-bit tones were taken as sRGB, without its profile.")
        return _upright_tones(image), alpha
    if image.mode == "F":
        values = np.nan_to_num(np.asarray(image, np.float32), nan=255.0)
        notes.append("Decimal pixels were taken as codes 0 to 255.")
        return Image.fromarray(np.rint(values.clip(0, 255)).astype(np.uint8)), alpha
    if image.mode in ("P", "1"):
        image = image.convert("L" if image.mode == "1" else "RGB")
    if image.mode == "YCbCr":
        image = image.convert("RGB")
    gamma = png_gamma(told)
    if gamma is not None and image.mode in ("L", "RGB"):
        notes.append(f"Converted from its gamma of {gamma:.3g} to sRGB.")
        light = (np.arange(256) / 255) ** (1 / gamma)
        table = np.rint(to_coded(light) * 255).astype(int).tolist()
        image = image.point(table * len(image.getbands()))
    if profile and image.mode in _WITH_PROFILE:
        converted = _through_profile(image, profile, notes)
        if converted is not None:
            return converted, alpha
    if image.mode == "CMYK":
        notes.append(
            "Print colours without a profile were converted plainly; "
            "for true colours save the picture with its profile, or as sRGB."
        )
    return image if image.mode in ("L", "RGB") else image.convert("RGB"), alpha


def _without_alpha(image: Image.Image) -> tuple[Image.Image, NDArray[np.uint8] | None]:
    if "transparency" in image.info and image.mode in ("P", "L", "RGB", "1"):
        image = image.convert("RGBA")
    if image.mode in ("PA", "La", "RGBa"):
        image = image.convert("RGBA")
    if image.mode not in ("RGBA", "LA"):
        return image, None
    alpha = image.getchannel("A")
    plain = image.convert("RGB" if image.mode == "RGBA" else "L")
    lowest = alpha.getextrema()[0]
    return plain, None if lowest == 255 else np.array(alpha)


def _upright_tones(image: Image.Image) -> Image.Image:
    """Return 16-bit tones with 0 black; Pillow leaves white-is-zero TIFFs as they are."""
    tags = getattr(image, "tag_v2", {})
    if tags.get(_PHOTOMETRIC) != _WHITE_IS_ZERO:
        return image
    return Image.fromarray((65535 - _sixteen(image)).astype(np.uint16))


def is_as_shown(image: Image.Image) -> bool:
    """Return whether a picture of mode L, RGB or RGBA holds sRGB codes already."""
    if "transparency" in image.info:
        return False
    if image.format == "PNG" and png_gamma(image.info) is not None:
        return False
    profile = image.info.get("icc_profile")
    if not profile:
        return True
    mode = image.mode.removesuffix("A")
    found = _transform(profile, mode)
    return found is not None and mode == "RGB" and _is_srgb(found[1])


def _is_srgb(name: str) -> bool:
    return name.startswith("sRGB")


def _through_profile(
    image: Image.Image, profile: bytes, notes: list[str]
) -> Image.Image | None:
    """Return the picture in sRGB, None when the profile is of no use."""
    kept = _transform(profile, image.mode)
    if kept is not None:
        transform, name = kept
        if _is_srgb(name) and image.mode == "RGB":
            return image
        with suppress(ImageCms.PyCMSError, OSError, ValueError, TypeError):
            found = ImageCms.applyTransform(image, transform)
            notes.append(f"Converted from its profile ({name[:60]}) to sRGB.")
            return found.getchannel("R") if found and image.mode == "L" else found
    notes.append("Its colour profile is damaged or of another kind; it was left out.")
    return None


@lru_cache(maxsize=4)
def _transform(profile: bytes, mode: str) -> tuple[ImageCms.ImageCmsTransform, str] | None:
    """Return the way from a profile to sRGB, and its name; None where it is of no use."""
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        name = ImageCms.getProfileDescription(source).strip()
        return (
            ImageCms.buildTransform(
                source,
                _SRGB,
                mode,
                "RGB",
                renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
                flags=_FLAGS,
            ),
            name,
        )
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        return None


def gray_of(image: Image.Image) -> NDArray[np.uint8] | NDArray[np.uint16]:
    """Return the gray codes of a picture of mode L or 16-bit gray."""
    return _sixteen(image) if image.mode in SIXTEEN_BIT else np.array(image)


def _sixteen(image: Image.Image) -> NDArray[np.uint16]:
    return np.asarray(image, dtype=np.int64).clip(0, 65535).astype(np.uint16)
