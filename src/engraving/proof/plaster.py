"""Surfaces under a lamp: a relief as lit plaster, grooves on a board.

Light falls on a matt surface by the cosine of its angle to it (Lambert 1760,
Photometria), with a share from all around.
"""

import math
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.colour.light import CODE_OF_LINEAR

Depths = NDArray[np.float32]
Pixels = NDArray[np.uint8]

UPPER_LEFT = 315.0
"""Where the lamp stands, degrees clockwise from the top."""
_HEIGHT_DEG = 28.0
_AROUND = 0.35


def lit(depths: Depths, px_mm: tuple[float, float], lamp_deg: float = UPPER_LEFT) -> Depths:
    """Return how bright a surface is, 1 where it is flat.

    Parameters
    ----------
    depths : ndarray of float32, shape (rows, cols)
        mm below the surface.
    px_mm : tuple of float
        Width and height of a pixel in mm.
    lamp_deg : float
        Where the lamp stands, clockwise from the top of the picture.
    """
    kernel = np.array([[-0.5, 0, 0.5]], np.float32)
    # Heights rise where depths fall.
    rise_x = -cv2.filter2D(depths, cv2.CV_32F, kernel / px_mm[0])
    rise_y = -cv2.filter2D(depths, cv2.CV_32F, kernel.T / px_mm[1])
    turn, high = math.radians(lamp_deg), math.radians(_HEIGHT_DEG)
    to_x, to_y, to_z = (
        math.sin(turn) * math.cos(high), -math.cos(turn) * math.cos(high), math.sin(high),
    )  # fmt: skip
    falls = (to_z - rise_x * to_x - rise_y * to_y) / np.sqrt(1 + rise_x**2 + rise_y**2)
    share = _AROUND + (1 - _AROUND) * np.maximum(falls, 0) / to_z
    return np.asarray(share, np.float32)


def painted(colours: NDArray[np.float32], light: Depths) -> Pixels:
    """Return colours under a light as sRGB codes.

    Parameters
    ----------
    colours : ndarray of float32, shape (rows, cols, 3)
        Linear, 0..1.
    light : ndarray of float32, shape (rows, cols)
        1 leaves them as they are.
    """
    shown = np.clip(colours * light[..., None], 0, 1)
    index = (shown * (CODE_OF_LINEAR.size - 1) + 0.5).astype(np.int64)
    return np.asarray(CODE_OF_LINEAR[index], np.uint8)


def blended(
    first: NDArray[Any], second: NDArray[Any], share: Depths
) -> NDArray[np.float32]:
    """Return two linear colours mixed by shares of the second, shape (rows, cols, 3)."""
    mixed = np.asarray(first) + (np.asarray(second) - first) * share[..., None]
    return np.asarray(mixed, np.float32)


def groove_depths(cut: NDArray[np.uint8], px_mm: float, tangent: float) -> Depths:
    """Return how deep a V-tool's cut lies: it rises evenly to its edges.

    Parameters
    ----------
    cut : ndarray of uint8, shape (rows, cols)
        255 where it is cut.
    px_mm : float
    tangent : float
        Half the width that a mm of depth adds.
    """
    away = cv2.distanceTransform(cut, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.asarray(away * np.float32(px_mm / tangent), np.float32)
