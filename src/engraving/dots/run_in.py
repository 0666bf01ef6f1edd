"""Rows before the first, so that error diffusion is under way where the picture begins.

Diffusion begins with no error, so the first dots of a light tone come late: at 253
of 255 after some 35 rows. Here it first runs over the picture's own upper rows,
mirrored outward, whose tones are broken up at random with their mean kept: without
that the first dots of all columns would come in one row. What is made of them is
thrown away.
"""

from functools import lru_cache

import numpy as np
from numba import njit
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
    _break_up(before[:_BROKEN], _chances(levels.shape[1]), _TIMES)
    return before


@lru_cache(maxsize=4)
def _chances(cols: int) -> NDArray[np.float64]:
    return np.random.default_rng(_SEED).random((_BROKEN, cols))


_AWAY = np.minimum(np.arange(256), 255 - np.arange(256))
_TIMES = np.clip(_MOST_MOVED // np.maximum(_AWAY, 1) + 1, 1, _MOST_TIMES)


@njit(cache=True, nogil=True)
def _break_up(levels, chances, times):  # type: ignore[no-untyped-def]
    """Make each tone one in so many times as far from the nearer end, in place."""
    for y in range(levels.shape[0]):
        for x in range(levels.shape[1]):
            level = np.int64(levels[y, x])
            away = min(level, 255 - level)
            far = away * times[level] if chances[y, x] * times[level] < 1 else 0
            levels[y, x] = 255 - far if level > 127 else far
