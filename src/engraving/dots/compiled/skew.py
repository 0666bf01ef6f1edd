"""Sixteen rows laid out by step, each eight columns behind the one above.

Eight, because a byte of output then ends in all rows at the same step::

    row 0   ........########            at one step t, row k makes column t - 8k
    row 1           ........########
    row 2                   ........########
"""

import numpy as np
from numba import njit

from engraving.dots.compiled.vector import WIDE, put, word_at

STEPS = 8
"""Steps of a block, and columns that a row lies behind the one above."""
SPARE = 64
"""Room behind what is read sixteen at once."""


@njit(cache=True, nogil=True)
def skew(levels, top, rows, cols, words):  # type: ignore[no-untyped-def]
    """Lay sixteen rows out by step: four levels to a word, a row to a lane."""
    whole = cols // 8
    words[:] = 0
    for k in range(rows):
        line = levels[top + k]
        for q in range(whole):
            at = (q + k) * 2 * WIDE + k
            put(words, at, word_at(line, 8 * q))
            put(words, at + WIDE, word_at(line, 8 * q + 4))
        for x in range(8 * whole, cols):
            at = (whole + k) * 2 * WIDE + k + (WIDE if x % 8 >= 4 else 0)
            words[at] |= np.int32(line[x]) << (8 * (x % 4))


@njit(cache=True, nogil=True)
def unskew(marks, packed, top, rows, cols):  # type: ignore[no-untyped-def]
    """Take each row's bytes out of the blocks, nothing beyond the last column."""
    blocks = (cols + 7) // 8
    beyond = np.uint8((255 << (8 * blocks - cols)) & 255)
    for k in range(rows):
        line = packed[top + k]
        for q in range(blocks):
            put(line, q, marks[(q + k) * WIDE + k])
        line[blocks - 1] &= beyond


@njit(cache=True, nogil=True)
def inside(cols):  # type: ignore[no-untyped-def]
    """Return 1 where a lane's column exists and 0 beside, by block and step.

    Blocks in the middle are all alike; only those at both ends are kept, see `edge_of`.
    """
    blocks = (cols + 7) // 8
    out = np.zeros((2 * WIDE + 2, STEPS, WIDE), np.float32)
    for i in range(2 * WIDE + 2):
        block = i if i < WIDE else blocks - 2 + (i - WIDE)
        for s in range(STEPS):
            for k in range(WIDE):
                x = STEPS * (block - k) + s
                out[i, s, k] = np.float32(0 <= x < cols)
    return out.reshape(-1)


@njit(cache=True, nogil=True)
def edge_of(block, blocks):  # type: ignore[no-untyped-def]
    """Return where a block's sixteens begin in `inside`, -1 where all columns exist."""
    if block < WIDE:
        return block * STEPS * WIDE
    if block >= blocks - 1:
        return (WIDE + 2 + block - blocks) * STEPS * WIDE
    return -1
