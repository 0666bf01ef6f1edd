"""Error diffusion whose weights follow the tone.

Ostromoukhov 2001, "A simple and efficient error-diffusion algorithm",
SIGGRAPH Proceedings 567-572: three weights (ahead, below behind, below) for
each level, so that every tone keeps an even grain. The published table is
interpolated between sixteen key levels (from memory); levels above 127 use
the row of 255 - level.
"""

from collections.abc import Mapping
from functools import cache
from types import MappingProxyType

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots.compiled.by_tone import diffuse_one_way
from engraving.dots.packing import pack
from engraving.dots.scalar import copysign32

_HALF = np.float32(127.5)

KEYS: Mapping[int, tuple[int, int, int]] = MappingProxyType(
    {
        0: (13, 0, 5), 1: (13, 0, 5), 2: (21, 0, 10), 3: (7, 0, 4), 4: (8, 0, 5),
        10: (7, 3, 3), 22: (3, 2, 1), 32: (20, 10, 19), 64: (11, 10, 0), 72: (5, 7, 1),
        77: (4, 1, 1), 85: (4, 1, 1), 95: (5, 3, 2), 102: (5, 3, 2), 122: (4, 1, 1),
        127: (4, 1, 1),
    }
)  # fmt: skip
"""Weights at the key levels; each row is divided by its sum."""


@cache
def weight_table() -> NDArray[np.float32]:
    """Return the shares of every level, shape (256, 3); each row sums to 1."""
    levels = np.array(list(KEYS))
    rows = np.array([np.divide(row, sum(row)) for row in KEYS.values()])
    lower = np.arange(256)
    lower = np.minimum(lower, 255 - lower)
    columns = [np.interp(lower, levels, rows[:, k]) for k in range(3)]
    return np.stack(columns, axis=1).astype(np.float32)


def diffuse_by_tone(
    levels: NDArray[np.uint8], *, serpentine: bool, plain: bool = False
) -> NDArray[np.uint8]:
    """Return the packed dots of a picture.

    Parameters
    ----------
    levels : ndarray of uint8, shape (rows, cols)
        0 is burned solid, 255 left untouched.
    serpentine : bool
        Whether rows 1, 3, 5 … run from right to left, as published.
    plain : bool
        Do without `engraving.dots.compiled.by_tone`, which makes the same dots sooner
        wherever rows run one way; to hold the one against the other.

    Returns
    -------
    ndarray of uint8, shape (rows, ceil(cols / 8))
        1 = burn, most significant bit on the left.
    """
    rows, cols = levels.shape
    packed = np.zeros((rows, -(-cols // 8)), np.uint8)
    if serpentine or plain:
        _diffuse(levels, weight_table(), serpentine, packed)
    else:
        table = np.pad(weight_table(), ((0, 0), (0, 1))).ravel()
        diffuse_one_way(np.ascontiguousarray(levels), table, packed)
    return packed


@njit(cache=True, nogil=True)
def _diffuse(levels, table, turning, packed):  # type: ignore[no-untyped-def]
    rows, cols = levels.shape
    ahead, aslant, under = table[:, 0].copy(), table[:, 1].copy(), table[:, 2].copy()
    here = np.zeros(cols, np.float32)
    burn = np.zeros(8 * packed.shape[1], np.uint8)
    for y in range(rows):
        row = levels[y]
        x, way = (cols - 1, -1) if turning and y % 2 == 1 else (0, 1)
        carried, waiting = np.float32(0), np.float32(0)
        before = x
        for _ in range(cols):
            level = row[x]
            value = (np.float32(level) - _HALF) + here[x] + carried
            burn[x] = value < 0
            error = value - copysign32(_HALF, value)  # type: ignore[call-arg]
            carried = error * ahead[level]
            # The dot behind has now got both of its shares; this row's are used up.
            here[before] = waiting + error * aslant[level]
            waiting = error * under[level]
            before = x
            x += way
        here[before] = waiting
        pack(burn, packed[y])
