"""One-way error diffusion, sixteen rows at once: the same dots, several times sooner.

A dot waits only for its left neighbour and for dots above it up to two
columns ahead. So sixteen rows run side by side, each eight columns behind the
one above, and one vector instruction serves all of them. Eight, because a
byte of output then ends in all rows at the same step::

    row 0   ........########            at one step t, row k makes column t - 8k
    row 1           ........########
    row 2                   ........########

Errors lie in a rolling window by step, two places for what the rows above the
sixteen handed down and then one place a row, so that "the row above, dx
columns on" is the place to the left, dx - 8 steps ago. Every operation is
that of `engraving.dots.diffusion`, in its order; the dots are the same to the
last one, which is its test.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots.compiled.vector import (
    WIDE,
    load,
    load_words,
    lowest_byte,
    mark_negative,
    minus,
    next_byte,
    plus,
    plus_product,
    signed,
    spread,
    spread_word,
    store,
    store_bytes,
    times,
    word_at,
)
from engraving.dots.kernels import REACH

_HALF = np.float32(127.5)
_STEPS = 8
_PLACES = WIDE + 2
_KEPT = 24
_BLOCKS = 8
_SPARE = 64


def suits(shares: NDArray[np.float32]) -> bool:
    """Return whether a table reaches no farther than two dots."""
    return not (shares[REACH].any() or shares[1, 0] or shares[1, 2 * REACH])


class Lanes:
    """One-way error diffusion of one picture, band by band.

    Parameters
    ----------
    shares : ndarray of float32, shape (4, 7)
        As from `Kernel.shares`; see `suits`.
    cols : int
        Dots in a row.
    """

    def __init__(self, shares: NDArray[np.float32], cols: int) -> None:
        middle = slice(REACH - 2, REACH + 3)
        # A weight given to dx ahead is pulled from dx behind.
        self._above = np.ascontiguousarray(shares[1, middle][::-1])
        self._two_above = np.ascontiguousarray(shares[2, middle][::-1])
        self._near, self._far = shares[0, REACH + 1], shares[0, REACH + 2]
        self._cols = cols
        length = _STEPS * (-(-cols // 8) + 2 * WIDE) + _SPARE
        self._one, self._two = np.zeros(length, np.float32), np.zeros(length, np.float32)

    def feed(self, levels: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """Return the packed dots of the next rows; see `Diffuser.feed`."""
        packed = np.zeros((levels.shape[0], -(-self._cols // 8)), np.uint8)
        carried = np.stack([self._one, self._two])
        _band(
            np.ascontiguousarray(levels),
            packed,
            (self._above, self._two_above, self._near, self._far),
            carried,
        )
        self._one, self._two = carried
        return packed


@njit(cache=True, nogil=True)
def _skew(levels, top, rows, cols, words):  # type: ignore[no-untyped-def]
    """Lay sixteen rows out by step: four levels to a word, a row to a lane."""
    whole = cols // 8
    words[:] = 0
    for k in range(rows):
        line = levels[top + k]
        for q in range(whole):
            at = (q + k) * 2 * WIDE + k
            words[at] = word_at(line, 8 * q)
            words[at + WIDE] = word_at(line, 8 * q + 4)
        for x in range(8 * whole, cols):
            at = (whole + k) * 2 * WIDE + k + (WIDE if x % 8 >= 4 else 0)
            words[at] |= np.int32(line[x]) << (8 * (x % 4))


@njit(cache=True, nogil=True)
def _inside(cols, blocks):  # type: ignore[no-untyped-def]
    """Return 1 where a lane's column exists and 0 beside, by block and step.

    Blocks in the middle are all alike; only those at both ends are kept.
    """
    out = np.zeros((2 * WIDE + 1, _STEPS, WIDE), np.float32)
    for i in range(2 * WIDE + 1):
        block = i if i < WIDE else blocks - 2 + (i - WIDE)
        for s in range(_STEPS):
            for k in range(WIDE):
                x = _STEPS * (block - k) + s
                out[i, s, k] = np.float32(0 <= x < cols)
    return out


@njit(cache=True, nogil=True)
def _band(levels, packed, weights, carried):  # type: ignore[no-untyped-def]
    rows, cols = levels.shape
    blocks = (cols + 7) // 8
    steps = blocks + WIDE - 1
    words = np.zeros(steps * 2 * WIDE + _SPARE, np.int32)
    marks = np.zeros(steps * WIDE + _SPARE, np.uint8)
    errors = np.zeros((_KEPT + _BLOCKS * _STEPS + _STEPS) * _PLACES + _SPARE, np.float32)
    inside = _inside(cols, blocks).reshape(-1)
    handed = np.zeros_like(carried)
    beyond = np.uint8((255 << (8 * blocks - cols)) & 255)
    for top in range(0, rows, WIDE):
        count = min(WIDE, rows - top)
        _skew(levels, top, count, cols, words)
        _strip(words, errors, inside, weights, carried, handed, count, marks, blocks)
        carried[:] = handed
        for k in range(count):
            line = packed[top + k]
            for q in range(blocks):
                line[q] = marks[(q + k) * WIDE + k]
            line[blocks - 1] &= beyond


@njit(cache=True, nogil=True)
def _strip(words, errors, inside, weights, carried, handed, count, marks, blocks):  # type: ignore[no-untyped-def]
    """Make sixteen rows; `handed` gets the errors of the last two of `count`."""
    above, two_above, near, far = weights
    a0, a1, a2, a3, a4 = (
        spread(above[0]), spread(above[1]), spread(above[2]),
        spread(above[3]), spread(above[4]),
    )  # fmt: skip
    b0, b1, b2, b3, b4 = (
        spread(two_above[0]), spread(two_above[1]), spread(two_above[2]),
        spread(two_above[3]), spread(two_above[4]),
    )  # fmt: skip
    deep = two_above.any()
    near_, far_ = spread(near), spread(far)
    half, step = spread(_HALF), spread(near * _HALF)
    nothing = spread(np.float32(0))
    value, sign, before, error = nothing, nothing, nothing, nothing
    errors[: _KEPT * _PLACES] = 0
    # What the two rows above handed down, at the steps where row 0 will look for it.
    for s in range(_STEPS):
        errors[(_KEPT - _STEPS + s) * _PLACES + 1] = carried[0, s]
        errors[(_KEPT - 2 * _STEPS + s) * _PLACES + 1] = 0
        errors[(_KEPT - 2 * _STEPS + s) * _PLACES] = carried[1, s]
        errors[(_KEPT - _STEPS + s) * _PLACES] = carried[1, _STEPS + s]
    at, block_in_window = _KEPT * _PLACES, 0
    one, two = at + 1 - (_STEPS + 2) * _PLACES, at - (2 * _STEPS + 2) * _PLACES
    u1, u2, u3, u4 = (
        load(errors, one), load(errors, one + _PLACES),
        load(errors, one + 2 * _PLACES), load(errors, one + 3 * _PLACES),
    )  # fmt: skip
    w1, w2, w3, w4 = (
        load(errors, two), load(errors, two + _PLACES),
        load(errors, two + 2 * _PLACES), load(errors, two + 3 * _PLACES),
    )  # fmt: skip
    last, last_but_one = count - 1, count - 2
    for block in range(blocks + WIDE - 1):
        edge = block if block < WIDE else WIDE - 1
        if block >= blocks - 1:
            edge = WIDE + 1 + block - (blocks - 1) if block >= WIDE else edge
        at_edge = block < WIDE or block >= blocks - 1
        row = edge * _STEPS * WIDE
        done = spread_word(np.int32(0))
        word = load_words(words, block * 2 * WIDE)
        for s in range(_STEPS):
            e = at + s * _PLACES
            x = _STEPS * block + s
            errors[e + 1] = carried[0, x + _STEPS]
            errors[e] = carried[1, x + 2 * _STEPS]
            if s == _STEPS // 2:
                word = load_words(words, block * 2 * WIDE + WIDE)
            base = minus(lowest_byte(word), half)
            word = next_byte(word)
            # One new neighbour a step; the other four were looked at before.
            u0, u1, u2, u3 = u1, u2, u3, u4
            u4 = load(errors, e + 1 - (_STEPS - 2) * _PLACES)
            base = plus_product(base, a0, u0)
            base = plus_product(base, a1, u1)
            base = plus_product(base, a2, u2)
            base = plus_product(base, a3, u3)
            base = plus_product(base, a4, u4)
            if deep:
                w0, w1, w2, w3 = w1, w2, w3, w4
                w4 = load(errors, e - (2 * _STEPS - 2) * _PLACES)
                sum_ = times(b0, w0)
                sum_ = plus_product(sum_, b1, w1)
                sum_ = plus_product(sum_, b2, w2)
                sum_ = plus_product(sum_, b3, w3)
                sum_ = plus_product(sum_, b4, w4)
                base = plus(base, sum_)
            waiting = plus_product(base, far_, before)
            value = plus_product(minus(waiting, sign), near_, value)
            done = mark_negative(done, value, spread_word(np.int32(128 >> s)))
            before = error
            error = minus(value, signed(half, value))
            sign = signed(step, value)
            if at_edge:
                there = load(inside, row + s * WIDE)
                error = times(error, there)
                sign = times(sign, there)
                value = times(value, there)
            store(errors, e + 2, error)
        store_bytes(marks, block * WIDE, done)
        if block >= last:
            for s in range(_STEPS):
                x = _STEPS * (block - last) + s
                handed[0, x] = errors[at + s * _PLACES + 2 + last]
        if last_but_one >= 0 and block >= last_but_one:
            for s in range(_STEPS):
                x = _STEPS * (block - last_but_one) + s
                handed[1, x] = errors[at + s * _PLACES + 2 + last_but_one]
        block_in_window += 1
        at += _STEPS * _PLACES
        if block_in_window == _BLOCKS:
            kept = _KEPT * _PLACES
            for j in range(kept):
                errors[j] = errors[at - kept + j]
            at, block_in_window = kept, 0
    if last_but_one < 0:
        handed[1] = carried[0]
