"""Operations that look at a dot's surroundings to decide how light it becomes."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.tone.pairs import through_pairs

Codes = NDArray[np.uint8]

MOST_TILES = 48
_REACH_DOTS = 2.0
_REDUCED = 8
_BASE_DOTS = 32.0


def lift_depths(codes: Codes, shadows: float, highlights: float) -> Codes:
    """Return a picture whose shadows and highlights are lightened or darkened.

    A dot counts as shadow by how dark its wider surroundings are, so that
    detail inside them stays.

    Parameters
    ----------
    codes : ndarray of uint8, shape (rows, cols)
    shadows, highlights : float
        -1..1; above 0 lightens.

    Notes
    -----
    The surroundings are a Gaussian of 32 dots; within them the exponent of a
    tone falls to ``4^-amount`` in full shadow, and that of its negative in
    full highlight (own choice of strength).
    """
    if shadows == 0 and highlights == 0:
        return codes
    return through_pairs(codes, _surroundings(codes), _depth_table(shadows, highlights))


def _surroundings(codes: Codes) -> Codes:
    """Return a wide blur, computed on a reduced picture."""
    rows, cols = codes.shape
    few = max(cols // _REDUCED, 1), max(rows // _REDUCED, 1)
    small = cv2.resize(codes, few, interpolation=cv2.INTER_AREA)
    soft = cv2.GaussianBlur(
        small, (0, 0), _BASE_DOTS / _REDUCED, borderType=cv2.BORDER_REPLICATE
    )
    return np.asarray(
        cv2.resize(soft, (cols, rows), interpolation=cv2.INTER_LINEAR), np.uint8
    )


def _depth_table(shadows: float, highlights: float) -> Codes:
    """Return the code of each tone (row) in each surrounding (column), (256, 256)."""
    tone = np.arange(256)[:, None] / 255
    around = np.arange(256)[None, :] / 255
    deep = np.clip(1 - 2 * around, 0, 1)
    high = np.clip(2 * around - 1, 0, 1)
    lifted = tone ** (4.0 ** (-shadows * deep))
    lifted = 1 - (1 - lifted) ** (4.0 ** (highlights * high))
    return np.asarray(np.floor(lifted * 255 + 0.5), np.uint8)


def local_contrast(
    codes: Codes, amount: float, limit: float, size_mm: float, cell_mm: tuple[float, float]
) -> Codes:
    """Return a picture whose contrast is spread out within each neighbourhood.

    Contrast-limited adaptive histogram equalisation (Zuiderveld 1994, Graphics
    Gems IV), blended with the picture. A picture of one tone is left alone.

    Parameters
    ----------
    codes : ndarray of uint8, shape (rows, cols)
    amount : float
        Share of the result, 0..1.
    limit : float
        Highest slope of a neighbourhood's curve, in multiples of a straight
        one.
    size_mm : float
        About how large a neighbourhood is; at most 48 lie side by side.
    cell_mm : tuple of float
        Length of a dot and distance of the rows.
    """
    if amount == 0 or codes.min() == codes.max():
        return codes
    rows, cols = codes.shape
    across, down = (
        min(max(round(count * cell / size_mm), 1), MOST_TILES, max(count // 2, 1))
        for count, cell in zip((cols, rows), cell_mm, strict=True)
    )
    spread = cv2.createCLAHE(limit, (across, down)).apply(codes)
    if amount == 1:
        return np.asarray(spread, np.uint8)
    return np.asarray(cv2.addWeighted(codes, 1 - amount, spread, amount, 0), np.uint8)


def denoise(codes: NDArray[Any], strength: float) -> NDArray[Any]:
    """Return a picture whose grain is smoothed while its edges stay.

    The bilateral filter (Tomasi & Manduchi 1998, ICCV 839-846) over five dots.

    Parameters
    ----------
    codes : ndarray of uint8 or uint16, shape (rows, cols)
    strength : float
        0..1; at 1 differences of a fifth of the range still count as grain.
    """
    if strength == 0:
        return codes
    wide = codes.dtype == np.uint16
    # The filter takes sixteen bits only as floating-point numbers.
    plane = codes.astype(np.float32) / np.float32(257) if wide else codes
    grain, edge = 51 * strength, cv2.BORDER_REPLICATE
    smooth = cv2.bilateralFilter(plane, 5, grain, _REACH_DOTS, borderType=edge)
    if not wide:
        return np.asarray(smooth, np.uint8)
    return np.rint(smooth * 257).clip(0, 65535).astype(np.uint16)
