"""A picture of a burned piece: from aslant, in uneven light, blurred and noisy."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from standins.camera.surface import Surface, marks_of

_AROUND_MM = 8.0
_FINE_MM = 0.016
_MOST_FINE = 40_000_000
_LIGHT = np.arange(1 << 16) / ((1 << 16) - 1)
_CODED = (
    255 * np.where(_LIGHT <= 0.0031308, 12.92 * _LIGHT, 1.055 * _LIGHT ** (1 / 2.4) - 0.055)
).astype(np.float32)
"""sRGB codes of even steps of light (IEC 61966-2-1)."""


@dataclass(frozen=True)
class View:
    """How the camera looks.

    Attributes
    ----------
    px_mm : float
        Pixels of a mm, about.
    tilt : float
        How far corners are displaced, as a share of the picture.
    uneven : float
        Relative fall of the light from one side to the other.
    exposure : float
        1 shows a white sheet just white.
    blur_px, noise : float
        Lens blur as a standard deviation in pixels; noise in codes.
    seed : int
        Decides tilt, direction of the light, grain and noise.
    """

    px_mm: float = 20.0
    tilt: float = 0.04
    uneven: float = 0.25
    exposure: float = 0.9
    blur_px: float = 0.7
    noise: float = 1.5
    seed: int = 1


def photograph(
    strokes: NDArray[np.float64],
    surface: Surface,
    left: float,
    front: float,
    size: tuple[float, float],
    view: View | None = None,
) -> NDArray[np.uint8]:
    """Return a photo of a rectangle of the bed and some bare material round it.

    Parameters
    ----------
    strokes : ndarray, shape (n, 6)
    surface : Surface
    left, front : float
        Lower left corner of what was burned, mm.
    size : tuple of float
        Its width and height, mm.
    view : View, optional

    Returns
    -------
    ndarray of uint8, shape (rows, cols, 3)
        sRGB.
    """
    view = view or View()
    draw = np.random.default_rng(view.seed)
    wide, high = (side + 2 * _AROUND_MM for side in size)
    fine = max(_FINE_MM, np.sqrt(wide * high / _MOST_FINE))
    seen = marks_of(
        strokes, surface, left - _AROUND_MM, front - _AROUND_MM, (wide, high), fine
    )
    # Grain about as coarse as wood's.
    grain = draw.standard_normal((round(high / 0.5) + 1, round(wide / 0.5) + 1))
    shade = cv2.resize(
        grain.astype(np.float32), seen.shape[1::-1], interpolation=cv2.INTER_CUBIC
    )
    seen *= (1 + np.float32(surface.grain) * shade)[..., None]
    return _developed(_from_aslant(seen, fine, view, draw), view, draw)


def _from_aslant(
    seen: NDArray[np.float32], fine: float, view: View, draw: np.random.Generator
) -> NDArray[np.float32]:
    rows, cols = seen.shape[:2]
    scale = view.px_mm * fine
    wide, high = cols * scale, rows * scale
    # Bring the fine picture near the photo's scale first, lest it alias.
    step = max(1, int(1 / scale))
    if step > 1:
        small = (cols // step, rows // step)
        seen = np.asarray(cv2.resize(seen, small, interpolation=cv2.INTER_AREA))
        rows, cols = seen.shape[:2]
    ends = np.array([[0, 0], [cols, 0], [cols, rows], [0, rows]], np.float32)
    aslant = np.array([[0, 0], [wide, 0], [wide, high], [0, high]])
    inward = np.array([[1, 1], [-1, 1], [-1, -1], [1, -1]])
    aslant = aslant + inward * draw.uniform(0, view.tilt, (4, 2)) * (wide, high)
    matrix = cv2.getPerspectiveTransform(ends, aslant.astype(np.float32))
    size = round(wide), round(high)
    return np.asarray(
        cv2.warpPerspective(
            seen, matrix, size, flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
        ),
        np.float32,
    )


def _developed(
    light: NDArray[np.float32], view: View, draw: np.random.Generator
) -> NDArray[np.uint8]:
    rows, cols = light.shape[:2]
    up, across = np.mgrid[0:rows, 0:cols].astype(np.float32)
    angle = draw.uniform(0, 2 * np.pi)
    along = np.cos(angle) * (across / cols - 0.5) + np.sin(angle) * (up / rows - 0.5)
    round_ = (across / cols - 0.5) ** 2 + (up / rows - 0.5) ** 2
    lamp = 1 - view.uneven * (along + 0.5 * round_)
    light = np.asarray(light * (view.exposure * lamp)[..., None], np.float32)
    if view.blur_px:
        light = np.asarray(cv2.GaussianBlur(light, (0, 0), view.blur_px), np.float32)
    noisy = view.noise * draw.standard_normal(light.shape, np.float32)
    steps = np.rint(np.clip(light, 0, 1) * (_CODED.size - 1)).astype(np.intp)
    noisy += np.take(_CODED, steps)
    return np.clip(np.rint(noisy), 0, 255).astype(np.uint8)
