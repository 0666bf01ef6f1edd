"""Continuous power: every dot is burned, more or less strongly."""

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import DotsPart

FULL = 1000
"""Power of a dot in thousandths of the recipe's."""


def power_table(settings: DotsPart) -> NDArray[np.uint16]:
    """Return the power of each level 0…255, 0…1000, in so many equal steps.

    255 is not burned at all; what is left runs from the floor (lightest) to
    the ceiling (solid), the two turned where the floor lies above.
    """
    share = 1 - np.arange(256) / 255
    step = np.rint(share * (settings.steps - 1)) / (settings.steps - 1)
    low, high = sorted((settings.floor, settings.ceiling))
    power = np.rint((low + (high - low) * step) * FULL / 100)
    power[step == 0] = 0
    return power.astype(np.uint16)


def powers(levels: NDArray[np.uint8], settings: DotsPart) -> NDArray[np.uint16]:
    """Return each dot's power, uint16 of shape (rows, cols), 0…1000."""
    return np.asarray(cv2.LUT(levels, power_table(settings)), np.uint16)
