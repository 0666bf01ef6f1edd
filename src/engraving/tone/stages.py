"""The order of tone operations, and the step from tone to what is burned."""

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.spec import Polarity, TonePart
from engraving.tone.curve import tone_table
from engraving.tone.sharpen import unsharp_mask

_IDENTITY = np.arange(256, dtype=np.uint8)


def is_plain(tone: TonePart) -> bool:
    """Return whether the settings leave every tone as it is."""
    if not tone.on:
        return True
    return tone.sharpen_amount == 0 and np.array_equal(tone_table(tone), _IDENTITY)


def apply_tone(
    codes: NDArray[np.uint8] | NDArray[np.uint16], tone: TonePart
) -> NDArray[np.uint8]:
    """Return the toned picture.

    Parameters
    ----------
    codes : ndarray of uint8 or uint16, shape (rows, cols)
        sRGB-coded lightness on the burn grid.
    tone : TonePart
        Settings; the point operations come first, then the unsharp mask.

    Returns
    -------
    ndarray of uint8, shape (rows, cols)
        `codes` itself where nothing is to be done to eight bits.
    """
    if codes.dtype == np.uint16:
        # Sixteen bits go through the table unrounded, so that steep curves show no steps.
        table = tone_table(tone if tone.on else TonePart(), 65536)
        toned = np.take(table, codes)
    elif is_plain(tone):
        return np.asarray(codes, np.uint8)
    else:
        toned = np.asarray(cv2.LUT(codes, tone_table(tone)), np.uint8)
    if not tone.on:
        return toned
    if tone.sharpen_amount == 0:
        return toned
    return unsharp_mask(
        toned, tone.sharpen_dots, tone.sharpen_amount / 100, tone.sharpen_threshold
    )


def levels_to_burn(toned: NDArray[np.uint8], polarity: Polarity) -> NDArray[np.uint8]:
    """Return levels for the dot methods: 0 burn solid, 255 leave.

    Where the beam darkens, black is burned: burned share = 1 - value/255.
    Where it lightens, white is: burned share = value/255.
    """
    return toned if polarity == Polarity.DARKENS else np.bitwise_not(toned)
