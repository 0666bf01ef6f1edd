"""Surfaces under a lamp: a relief as lit plaster, grooves on a board.

Light falls on a matt surface by the cosine of its angle to it (Lambert 1760,
Photometria), with a share from all around.
"""

import math
from typing import Any

import cv2
import numpy as np
from numba import njit
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


def shaded(
    first: NDArray[Any], second: NDArray[Any], share: Depths, light: Depths
) -> Pixels:
    """Return two colours mixed by shares of the second, under a light, as sRGB codes.

    Parameters
    ----------
    first, second : ndarray, shape (3,)
        Linear, 0..1.
    share : ndarray of float32, shape (rows, cols)
    light : ndarray of float32, shape (rows, cols)
        1 leaves them as they are.
    """
    out = np.zeros((*share.shape, 3), np.uint8)
    colours = np.asarray(first, np.float32), np.asarray(second, np.float32)
    _shade(*colours, share, light, CODE_OF_LINEAR, out)
    return out


@njit(cache=True, nogil=True)
def _shade(first, second, share, light, table, out) -> None:  # type: ignore[no-untyped-def]
    top = np.float32(table.size - 1)
    half = np.float32(0.5)
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            bright = light[y, x] * top
            for k in range(3):
                mixed = (second[k] - first[k]) * share[y, x] + first[k]
                out[y, x, k] = table[int(min(max(mixed * bright + half, half), top))]


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
