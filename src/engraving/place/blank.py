"""The part of the burn grid that lies on the blank."""

import numpy as np
from numpy.typing import NDArray

from engraving.spec import BlankPart, SizePart


def engravable_mask(size: SizePart, blank: BlankPart) -> NDArray[np.bool_]:
    """Return which dots lie on the blank, its margin taken off.

    The artwork lies centred on the blank. A dot counts by its centre.

    Returns
    -------
    ndarray of bool, shape (rows, cols)
    """
    x = (np.arange(size.cols) + 0.5) * size.pitch_mm - size.cols * size.pitch_mm / 2
    y = (np.arange(size.rows) + 0.5) * size.pitch_mm - size.rows * size.pitch_mm / 2
    half_width = max(blank.width_mm / 2 - blank.margin_mm, 0)
    half_height = max(blank.height_mm / 2 - blank.margin_mm, 0)
    if blank.shape == "rectangle" or not (half_width and half_height):
        inside = (np.abs(y) <= half_height)[:, None] & (np.abs(x) <= half_width)
        return np.asarray(inside)
    return np.asarray((x[None, :] / half_width) ** 2 + (y[:, None] / half_height) ** 2 <= 1)
