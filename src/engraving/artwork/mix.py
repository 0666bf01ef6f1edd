"""From the picture's colours to the gray that is burned: mix, dropped colours, ground."""

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.artwork.reading import Artwork
from engraving.colour.hexadecimal import codes_of
from engraving.colour.light import luminance_codes
from engraving.jobspec import ArtworkPart, DroppedColour, Ground, Mix
from engraving.strips import in_bands

_FADE = 1.5

MIXES: dict[str, Mix] = {
    "luminance": Mix(),
    "red": Mix(red=100, green=0, blue=0),
    "green": Mix(red=0, green=100, blue=0),
    "blue": Mix(red=0, green=0, blue=100),
    "skin": Mix(red=62, green=34, blue=4),
    "foliage and sky": Mix(red=55, green=75, blue=-30),
}
"""Named starting points (our own; common practice, no source).

Skin leans on red, which evens it; foliage and sky lifts leaves and deepens blue.
"""


def needs_colour(part: ArtworkPart) -> bool:
    """Return whether the gray plane must be made from the colours."""
    return part.mix.weights != Mix().weights or bool(part.dropped)


def gray_plane(found: Artwork, part: ArtworkPart) -> NDArray[np.uint8] | NDArray[np.uint16]:
    """Return the whole gray plane of a picture, as a job mixes it.

    Parameters
    ----------
    found : Artwork
        With its colours where `needs_colour` says so; a gray picture has none.
    part : ArtworkPart
        Weights, dropped colours, and what transparent parts become.

    Returns
    -------
    ndarray of uint8 or uint16, shape (height, width)
    """
    gray = found.gray
    if found.colour is not None and needs_colour(part):
        gray = mixed(found.colour, part)
    if found.alpha is not None and part.ground != Ground.UNBURNED:
        return on_ground(gray, found.alpha, ground_code(part))
    return gray


def mixed(rgb: NDArray[np.uint8], part: ArtworkPart) -> NDArray[np.uint8]:
    """Return the gray codes of colours, dropped ones white, shape (height, width)."""
    gray = luminance_codes(rgb, part.mix.weights)

    def drop(first: int, last: int) -> None:
        band = gray[first:last]
        share = dropped_share(rgb[first:last], part.dropped)
        band[:] = np.rint(band + (255 - band.astype(np.float32)) * share)

    if part.dropped:
        in_bands(len(rgb), drop)
    return gray


def dropped_share(
    rgb: NDArray[np.uint8], dropped: tuple[DroppedColour, ...]
) -> NDArray[np.float32]:
    """Return how far each pixel's colour is dropped, 0..1, shape (height, width).

    By distance in CIELAB under D65 (CIE 15:2004, ΔE*ab).
    """
    lab = cv2.cvtColor(np.asarray(rgb, np.float32) / 255, cv2.COLOR_RGB2LAB)
    share = np.zeros(rgb.shape[:2], np.float32)
    for one in dropped:
        wanted = np.array([[codes_of(one.colour)]], np.float32) / 255
        away = np.linalg.norm(lab - cv2.cvtColor(wanted, cv2.COLOR_RGB2LAB), axis=2)
        fade = (one.tolerance * _FADE - away) / (one.tolerance * (_FADE - 1))
        np.maximum(share, fade.clip(0, 1), out=share)
    return share


def on_ground(
    gray: NDArray[np.uint8] | NDArray[np.uint16], alpha: NDArray[np.uint8], code: float
) -> NDArray[np.uint8] | NDArray[np.uint16]:
    """Return codes laid over a ground of one code 0..255, as every viewer does."""
    top = 255 if gray.dtype == np.uint8 else 65535
    out = np.zeros_like(gray)

    def lay(first: int, last: int) -> None:
        share = alpha[first:last].astype(np.float32) / 255
        laid = gray[first:last] * share + code / 255 * top * (1 - share)
        out[first:last] = np.rint(laid)

    in_bands(len(gray), lay)
    return out


def ground_code(part: ArtworkPart) -> float:
    """Return the code 0..255 that transparent parts are laid on."""
    codes = {Ground.WHITE: 255.0, Ground.BLACK: 0.0}
    return codes.get(part.ground, part.ground_gray)
