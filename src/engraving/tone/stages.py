"""The order of tone operations, and the step from tone to what is burned."""

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import Polarity, TonePart
from engraving.tone.curve import tone_table
from engraving.tone.local import denoise, lift_depths, local_contrast
from engraving.tone.sharpen import blur, high_pass, unsharp_mask

_IDENTITY = np.arange(256, dtype=np.uint8)


def is_plain(tone: TonePart) -> bool:
    """Return whether the settings leave every tone as it is."""
    counts = tone.effective()
    return not _looks_around(counts) and np.array_equal(tone_table(counts), _IDENTITY)


def _looks_around(tone: TonePart) -> bool:
    return any(
        (
            tone.denoise,
            tone.shadows,
            tone.highlights,
            tone.local_amount,
            tone.blur_dots,
            tone.sharpen_amount,
            tone.detail_opacity,
        )
    )


def apply_tone(
    codes: NDArray[np.uint8] | NDArray[np.uint16],
    tone: TonePart,
    cell_mm: tuple[float, float] = (1.0, 1.0),
) -> NDArray[np.uint8]:
    """Return the toned picture.

    Parameters
    ----------
    codes : ndarray of uint8 or uint16, shape (rows, cols)
        sRGB-coded lightness on the burn grid.
    tone : TonePart
        Settings. Order: denoise; all point operations in one table; shadows
        and highlights; local contrast; blur; unsharp mask; high-pass. The
        output levels hold for the result.
    cell_mm : tuple of float
        Length of a dot and distance of the rows.

    Returns
    -------
    ndarray of uint8, shape (rows, cols)
        `codes` itself where nothing is to be done to eight bits.
    """
    counts = tone.effective()
    if codes.dtype == np.uint8 and is_plain(counts):
        return np.asarray(codes, np.uint8)
    toned = _through_table(denoise(codes, counts.denoise / 100), counts)
    if not _looks_around(counts):
        return toned
    toned = lift_depths(toned, counts.shadows / 100, counts.highlights / 100)
    amount = counts.local_amount / 100
    toned = local_contrast(toned, amount, counts.local_limit, counts.local_mm, cell_mm)
    return _held(_sharpened(toned, counts, cell_mm), counts)


def _through_table(
    codes: NDArray[np.uint8] | NDArray[np.uint16], tone: TonePart
) -> NDArray[np.uint8]:
    if codes.dtype == np.uint16:
        # Sixteen bits go through the table unrounded, so that steep curves show no steps.
        return np.take(tone_table(tone, 65536), codes)
    return np.asarray(cv2.LUT(codes, tone_table(tone)), np.uint8)


def _sharpened(
    codes: NDArray[np.uint8], tone: TonePart, cell_mm: tuple[float, float]
) -> NDArray[np.uint8]:
    if tone.blur_dots:
        codes = blur(codes, tone.blur_dots, cell_mm)
    if tone.sharpen_amount:
        amount, least = tone.sharpen_amount / 100, tone.sharpen_threshold
        codes = unsharp_mask(codes, tone.sharpen_dots, amount, least, cell_mm)
    if tone.detail_opacity:
        opacity, way = tone.detail_opacity / 100, tone.detail_blend
        codes = high_pass(codes, tone.detail_dots, opacity, way, cell_mm)
    return codes


def _held(codes: NDArray[np.uint8], tone: TonePart) -> NDArray[np.uint8]:
    """Return codes inside the output levels, which sharpening oversteps."""
    low, high = sorted((round(tone.output_black), round(tone.output_white)))
    return codes if (low, high) == (0, 255) else codes.clip(low, high)


def levels_to_burn(toned: NDArray[np.uint8], polarity: Polarity) -> NDArray[np.uint8]:
    """Return levels for the dot methods: 0 burn solid, 255 leave.

    Where the beam darkens, black is burned: burned share = 1 - value/255.
    Where it lightens, white is: burned share = value/255.
    """
    return toned if polarity == Polarity.DARKENS else np.bitwise_not(toned)
