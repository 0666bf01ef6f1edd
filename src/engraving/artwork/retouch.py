"""Local lightening and darkening, as one straight line of tones per dot."""

import numpy as np
from numpy.typing import NDArray

from engraving.artwork.strokes import stroke_plane
from engraving.jobspec import Shade
from engraving.strips import in_bands

LONGEST_PX = 1024
"""Of the likeness the strokes act on; they are soft."""

Shading = NDArray[np.float32]
"""Shape (2, height, width): factor and addend of the tone 0..1."""


def unshaded(width: int, height: int) -> Shading:
    """Return the shading that changes nothing."""
    out = np.zeros((2, height, width), np.float32)
    out[0] = 1
    return out


def shaded(shading: Shading, stroke: Shade) -> Shading:
    """Return the shading after one more stroke.

    A stroke moves the tone t by its strength s towards white, ``t + s(1 - t)``,
    or towards black, ``t(1 - s)``: it also reaches what is burnt out or
    blocked up, which a gamma would not.
    """
    height, width = shading.shape[1:]
    kept = 1 - stroke_plane(stroke, width, height) * (stroke.strength / 100)
    added = 1 - kept if stroke.lighten else 0
    return np.stack([shading[0] * kept, shading[1] * kept + added]).astype(np.float32)


def apply_shading(
    codes: NDArray[np.uint8], factor: NDArray[np.uint8], addend: NDArray[np.uint8]
) -> NDArray[np.uint8]:
    """Return codes with a shading applied that lies on the burn grid.

    Parameters
    ----------
    codes : ndarray of uint8, shape (rows, cols)
    factor, addend : ndarray of uint8, shape (rows, cols)
        In 255ths.
    """
    out = np.zeros_like(codes)

    def shade(first: int, last: int) -> None:
        rows = slice(first, last)
        tones = codes[rows].astype(np.float32) * factor[rows] * np.float32(1 / 255)
        out[rows] = (tones + addend[rows] + 0.5).clip(0, 255)

    in_bands(len(codes), shade)
    return out
