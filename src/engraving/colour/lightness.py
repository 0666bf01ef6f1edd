"""CIE lightness L* and luminance.

Source: ISO/CIE 11664-4 (L*), ITU-R BT.709 (weights of linear R, G, B).
"""

import numpy as np
from numpy.typing import NDArray

from engraving.colour.light import LUMINANCE

Values = NDArray[np.float64]

WEIGHTS: Values = np.array(LUMINANCE)
"""Of linear red, green and blue: ``linear @ WEIGHTS`` is the luminance."""
WEIGHTS.setflags(write=False)


def lightness(luminance: Values) -> Values:
    """Return CIE L* of luminances 0..1 (ISO/CIE 11664-4, white at 1)."""
    y = np.asarray(luminance, np.float64)
    return np.where(y > 216 / 24389, 116 * np.cbrt(y) - 16, y * 24389 / 27)


def luminance(light: Values) -> Values:
    """Return the luminances 0..1 of CIE L*; the inverse of `lightness`."""
    return np.where(light > 8, ((light + 16) / 116) ** 3, light * 27 / 24389)
