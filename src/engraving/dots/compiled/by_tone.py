"""One-way error diffusion whose weights follow the tone, sixteen rows at once.

`engraving.dots.compiled.skew` draws the layout. What a row hands down to a dot is
complete when the dot after the one above it is made: seven steps before the row below,
eight columns behind, wants it. Operations and their order are those of
`engraving.dots.variable`.
"""

import numpy as np
from numba import njit

from engraving.dots.compiled.skew import SPARE, STEPS, edge_of, inside, skew, unskew
from engraving.dots.compiled.vector import (
    WIDE,
    copy_four,
    load,
    load_firsts,
    load_seconds,
    load_thirds,
    load_words,
    lowest_byte,
    mark_negative,
    minus,
    next_byte,
    plus,
    plus_product,
    put,
    signed,
    spread,
    spread_word,
    store,
    store_bytes,
    times,
)

_HALF = np.float32(127.5)
_PLACES = WIDE + 1
_LOOKED_UP = 4 * STEPS * WIDE


@njit(cache=True, nogil=True)
def diffuse_one_way(levels, table, packed):  # type: ignore[no-untyped-def]
    """Make the dots of a picture.

    Parameters
    ----------
    levels : ndarray of uint8, shape (rows, cols)
    table : ndarray of float32, shape (1024,)
        Shares ahead, below behind and below, and a number unused, by level.
    packed : ndarray of uint8, shape (rows, ceil(cols / 8))
        Filled.
    """
    rows, cols = levels.shape
    blocks = (cols + 7) // 8
    steps = blocks + WIDE
    words = np.zeros((steps + 1) * 2 * WIDE, np.int32)
    marks = np.zeros(steps * WIDE + SPARE, np.uint8)
    there = inside(cols)
    carried = np.zeros(STEPS * (steps + 1), np.float32)
    handed = np.zeros_like(carried)
    for top in range(0, rows, WIDE):
        count = min(WIDE, rows - top)
        skew(levels, top, count, cols, words)
        _strip(words, there, table, carried, handed, count, marks, blocks)
        carried, handed = handed, carried
        unskew(marks, packed, top, count, cols)


@njit(cache=True, nogil=True)
def _strip(words, there, table, carried, handed, count, marks, blocks):  # type: ignore[no-untyped-def]
    """Make sixteen rows; `carried` and `handed` are what a row hands to the one below."""
    shares = np.zeros(2 * _LOOKED_UP, np.float32)
    # Two blocks by step, and a step more; a place for the row above, then one a row.
    down = np.zeros((2 * STEPS + 1) * _PLACES + SPARE, np.float32)
    half, nothing = spread(_HALF), spread(np.float32(0))
    forward, waiting = nothing, nothing
    levels = words.view(np.uint8)
    _look_up(levels, 0, table, shares)
    _take_in(carried, 0, down, 1)
    for block in range(blocks + WIDE):
        # What the next block reads is written now: it is there by then.
        _look_up(levels, block + 1, table, shares)
        _take_in(carried, STEPS * (block + 1), down, STEPS + 1)
        edge = edge_of(block, blocks)
        done = spread_word(np.int32(0))
        word = load_words(words, block * 2 * WIDE)
        for s in range(STEPS):
            e, at = (STEPS + s) * _PLACES, (block % 2) * _LOOKED_UP + 4 * s * WIDE
            if s == STEPS // 2:
                word = load_words(words, block * 2 * WIDE + WIDE)
            above = load(down, e - (STEPS - 1) * _PLACES)
            value = plus(plus(minus(lowest_byte(word), half), above), forward)
            word = next_byte(word)
            done = mark_negative(done, value, spread_word(np.int32(128 >> s)))
            error = minus(value, signed(half, value))
            if edge >= 0:
                error = times(error, load(there, edge + s * WIDE))
            store(down, e + 1, plus_product(waiting, error, load_seconds(shares, at)))
            forward = times(error, load_firsts(shares, at))
            waiting = times(error, load_thirds(shares, at))
        store_bytes(marks, block * WIDE, done)
        _hand_on(down, count - 1, block - 1, handed)
        for j in range(0, (STEPS + 1) * _PLACES, WIDE):
            store(down, j, load(down, STEPS * _PLACES + j))
    _hand_on(down, count - 1, blocks + WIDE - 1, handed)


@njit(cache=True, nogil=True)
def _look_up(levels, block, table, shares):  # type: ignore[no-untyped-def]
    """Lay out a block's shares as its levels are: eight steps of sixteen times four."""
    to = (block % 2) * _LOOKED_UP
    for s in range(STEPS):
        since = 4 * WIDE * (2 * block + s // 4) + s % 4
        for k in range(WIDE):
            level = np.intp(levels[since + 4 * k])
            copy_four(shares, to + 4 * (s * WIDE + k), table, 4 * level)


@njit(cache=True, nogil=True)
def _take_in(carried, first, down, step):  # type: ignore[no-untyped-def]
    """Put what the row above handed down where eight steps look for it."""
    for s in range(STEPS):
        put(down, (step + s) * _PLACES, carried[first + s])


@njit(cache=True, nogil=True)
def _hand_on(down, lane, block, handed):  # type: ignore[no-untyped-def]
    """Keep what the last row handed down in the first of both blocks."""
    first = STEPS * (block - lane) - 1
    for s in range(max(-first, 0), STEPS):
        put(handed, first + s, down[s * _PLACES + 1 + lane])
