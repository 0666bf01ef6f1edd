"""Blur, unsharp mask and high-pass on the burn grid.

Radii are standard deviations in dots; where dots have two sides, in rows.
"""

from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.tone.pairs import through_pairs

Codes = NDArray[np.uint8]
Cell = tuple[float, float]

Blend = Literal["overlay", "hard-light"]


def blur(codes: Codes, sigma_dots: float, cell_mm: Cell) -> Codes:
    """Return a Gaussian blur, rounded to whole codes; ``cell_mm`` is a dot's two sides."""
    across = sigma_dots * cell_mm[1] / cell_mm[0]
    edge = cv2.BORDER_REPLICATE
    soft = cv2.GaussianBlur(codes, (0, 0), across, sigmaY=sigma_dots, borderType=edge)
    return np.asarray(soft, np.uint8)


def unsharp_mask(
    codes: Codes, sigma_dots: float, amount: float, least: float, cell_mm: Cell = (1, 1)
) -> Codes:
    """Return ``v + amount·(v - G v)``, G a Gaussian blur.

    Parameters
    ----------
    codes : ndarray of uint8, shape (rows, cols)
    sigma_dots : float
        Standard deviation of the Gaussian in dots.
    amount : float
        0 changes nothing; 1 adds the whole difference.
    least : float
        Differences below this many codes are left alone.
    cell_mm : tuple of float
        Length of a dot and distance of the rows.

    Returns
    -------
    ndarray of uint8, shape (rows, cols)
        Clipped to 0…255.

    Notes
    -----
    Gonzalez & Woods, Digital Image Processing, "unsharp masking". The blur is
    rounded to whole codes.
    """
    blurred = blur(codes, sigma_dots, cell_mm)
    sharp = cv2.addWeighted(codes, 1 + amount, blurred, -amount, 0)
    if least > 0:
        quiet = cv2.absdiff(codes, blurred) < least
        sharp = np.where(quiet, codes, sharp)
    return np.asarray(sharp, np.uint8)


def high_pass(
    codes: Codes, sigma_dots: float, opacity: float, way: Blend, cell_mm: Cell = (1, 1)
) -> Codes:
    """Return a picture blended with its own fine detail on middle gray.

    Parameters
    ----------
    codes : ndarray of uint8, shape (rows, cols)
    sigma_dots : float
        Detail wider than this is left out of the layer.
    opacity : float
        Share of the blend, 0..1.
    way : str
        ``overlay`` (the picture decides between darkening and lightening) or
        ``hard-light`` (the detail does).
    cell_mm : tuple of float
        Length of a dot and distance of the rows.

    Notes
    -----
    Blend functions as in W3C Compositing and Blending Level 1, sections
    10.1.3 and 10.1.8 (from memory).
    """
    blurred = blur(codes, sigma_dots, cell_mm)
    detail = cv2.addWeighted(codes, 1, blurred, -1, 128)
    return through_pairs(codes, np.asarray(detail, np.uint8), _blend_table(opacity, way))


def _blend_table(opacity: float, way: Blend) -> Codes:
    """Return the code of each tone (row) under each detail (column), (256, 256)."""
    tone = np.arange(256)[:, None] / 255
    detail = np.clip(np.arange(256)[None, :] / 256, 0, 1)
    darker, lighter = 2 * tone * detail, 1 - 2 * (1 - tone) * (1 - detail)
    dark = (tone if way == "overlay" else detail) < 0.5
    blended = np.where(dark, darker, lighter)
    return np.floor((tone + (blended - tone) * opacity) * 255 + 0.5).astype(np.uint8)
