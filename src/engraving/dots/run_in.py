"""Rows before the first, so that error diffusion is under way where the picture begins.

Diffusion begins with no error, so the first dots of a light tone come late: at 253
of 255 after some 35 rows. Here it first runs over the picture's own upper rows,
mirrored outward, whose tones are broken up at random with their mean kept: without
that the first dots of all columns would come in one row. What is made of them is
thrown away.
"""

import numpy as np
from numpy.typing import NDArray

_BROKEN, _PLAIN = 96, 32
_MOST_TIMES, _MOST_MOVED = 16, 64
"""A tone is broken up into rarer and stronger ones, middle tones next to not at all:
they have their dots at once, and would only lose their even grain.
"""
_SEED = 20011


def rows_before(levels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return rows to run over first, shape (128, cols); an even number.

    Parameters
    ----------
    levels : ndarray of uint8, shape (rows, cols)
        Of the picture; 0 is burned solid, 255 left untouched.
    """
    count = _BROKEN + _PLAIN
    rows = levels.shape[0]
    # 0 1 2 … rows-1 rows-2 … 1 0 1 …, from the picture's first row outward.
    at = np.abs((np.arange(count) + rows - 1) % max(2 * rows - 2, 1) - (rows - 1))
    before = levels[(rows - 1 - at)[::-1] if rows > 1 else np.zeros(count, int)]
    broken = before[:_BROKEN].astype(np.int32)
    light = broken > 127
    away = np.where(light, 255 - broken, broken)  # from the nearer end
    times = np.clip(_MOST_MOVED // np.maximum(away, 1) + 1, 1, _MOST_TIMES)
    hit = np.random.default_rng(_SEED).random(broken.shape) * times < 1
    far = np.where(hit, away * times, 0)
    out = before.copy()
    out[:_BROKEN] = np.where(light, 255 - far, far)
    return out
