"""One-way error diffusion, sixteen rows at once: the same dots, several times sooner.

A dot waits only for its left neighbour and for dots above it up to three
columns ahead. So sixteen rows run side by side (`engraving.dots.compiled.skew`
draws it), and one vector instruction serves all of them.

Errors lie in a rolling window by step, three places for what the rows above
the sixteen handed down and then one place a row, so that "the row above, dx
columns on" is the place to the left, dx - 8 steps ago. Every operation is
that of `engraving.dots.diffusion`, in its order; the dots are the same to the
last one, which is its test.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots.compiled.skew import SPARE, STEPS, edge_of, inside, skew, unskew
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
    put,
    signed,
    spread,
    spread_word,
    store,
    store_bytes,
    times,
)
from engraving.dots.kernels import REACH

_HALF = np.float32(127.5)
_PLACES = WIDE + REACH
_KEPT = 32
_BLOCKS = 8


class Lanes:
    """One-way error diffusion of one picture, band by band.

    Parameters
    ----------
    shares : ndarray of float32, shape (4, 7)
        As from `Kernel.shares`.
    cols : int
        Dots in a row.
    """

    def __init__(self, shares: NDArray[np.float32], cols: int) -> None:
        # A weight given to dx ahead is pulled from dx behind.
        self._pulled = np.ascontiguousarray(shares[:, ::-1])
        self._near, self._far = shares[0, REACH + 1], shares[0, REACH + 2]
        self._cols = cols
        length = STEPS * (-(-cols // 8) + 2 * WIDE + 2 * _BLOCKS)
        self._carried = np.zeros((REACH, length), np.float32)

    def feed(self, levels: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """Return the packed dots of the next rows; see `Diffuser.feed`."""
        packed = np.zeros((levels.shape[0], -(-self._cols // 8)), np.uint8)
        self._carried = _band(
            np.ascontiguousarray(levels),
            packed,
            (self._pulled, self._near, self._far),
            self._carried,
        )
        return packed


@njit(cache=True, nogil=True)
def _band(levels, packed, weights, carried):  # type: ignore[no-untyped-def]
    rows, cols = levels.shape
    blocks = (cols + 7) // 8
    steps = blocks + WIDE - 1
    words = np.zeros(steps * 2 * WIDE + SPARE, np.int32)
    marks = np.zeros(steps * WIDE + SPARE, np.uint8)
    errors = np.zeros((_KEPT + _BLOCKS * STEPS) * _PLACES + SPARE, np.float32)
    there = inside(cols)
    handed = np.zeros_like(carried)
    for top in range(0, rows, WIDE):
        count = min(WIDE, rows - top)
        skew(levels, top, count, cols, words)
        _strip(words, errors, there, weights, carried, handed, count, marks, blocks)
        carried, handed = handed, carried
        unskew(marks, packed, top, count, cols)
    return carried


@njit(cache=True, nogil=True)
def _strip(words, errors, there, weights, carried, handed, count, marks, blocks):  # type: ignore[no-untyped-def]
    """Make sixteen rows; `handed` gets the errors of the last of `count`."""
    pulled, near, far = weights
    a, b, c = pulled[1], pulled[2], pulled[3]
    a0, a1, a2, a3, a4 = (
        spread(a[1]),
        spread(a[2]),
        spread(a[3]),
        spread(a[4]),
        spread(a[5]),
    )
    b0, b1, b2, b3, b4 = (
        spread(b[1]),
        spread(b[2]),
        spread(b[3]),
        spread(b[4]),
        spread(b[5]),
    )
    before_a, after_a = spread(a[0]), spread(a[6])
    c0, c2, c4, c6 = spread(c[0]), spread(c[2]), spread(c[4]), spread(c[6])
    deep = b[1:6].any()
    reaching = c.any() or a[0] != 0 or a[6] != 0
    near_, far_ = spread(near), spread(far)
    half, step = spread(_HALF), spread(near * _HALF)
    nothing = spread(np.float32(0))
    value, sign, before, error = nothing, nothing, nothing, nothing
    depth = REACH if reaching else 2 if deep else 1
    errors[: _KEPT * _PLACES] = 0
    for r in range(depth):
        ahead = STEPS * (r + 1)
        for s in range(ahead):
            errors[(_KEPT - ahead + s) * _PLACES + REACH - 1 - r] = carried[r, s]
    at = _KEPT * _PLACES
    one, two = _above(at, 1), _above(at, 2)
    u1, u2, u3, u4 = (
        load(errors, one - 2 * _PLACES), load(errors, one - _PLACES),
        load(errors, one), load(errors, one + _PLACES),
    )  # fmt: skip
    w1, w2, w3, w4 = (
        load(errors, two - 2 * _PLACES), load(errors, two - _PLACES),
        load(errors, two), load(errors, two + _PLACES),
    )  # fmt: skip
    for block in range(blocks + WIDE - 1):
        if block % _BLOCKS == 0:
            _take_in(carried, depth, block * STEPS, errors)
            at = _KEPT * _PLACES
        edge = edge_of(block, blocks)
        done = spread_word(np.int32(0))
        word = load_words(words, block * 2 * WIDE)
        for s in range(STEPS):
            e = at + s * _PLACES
            if s == STEPS // 2:
                word = load_words(words, block * 2 * WIDE + WIDE)
            base = minus(lowest_byte(word), half)
            word = next_byte(word)
            # One new neighbour a step; the other four were looked at before.
            one = _above(e, 1)
            u0, u1, u2, u3 = u1, u2, u3, u4
            u4 = load(errors, one + 2 * _PLACES)
            base = plus_product(base, a0, u0)
            base = plus_product(base, a1, u1)
            base = plus_product(base, a2, u2)
            base = plus_product(base, a3, u3)
            base = plus_product(base, a4, u4)
            if deep:
                w0, w1, w2, w3 = w1, w2, w3, w4
                w4 = load(errors, _above(e, 2) + 2 * _PLACES)
                sum_ = times(b0, w0)
                sum_ = plus_product(sum_, b1, w1)
                sum_ = plus_product(sum_, b2, w2)
                sum_ = plus_product(sum_, b3, w3)
                sum_ = plus_product(sum_, b4, w4)
                base = plus(base, sum_)
            if reaching:
                sum_ = times(before_a, load(errors, one - 3 * _PLACES))
                sum_ = plus_product(sum_, after_a, load(errors, one + 3 * _PLACES))
                base = plus(base, sum_)
                three = _above(e, 3)
                sum_ = times(c0, load(errors, three - 3 * _PLACES))
                sum_ = plus_product(sum_, c2, load(errors, three - _PLACES))
                sum_ = plus_product(sum_, c4, load(errors, three + _PLACES))
                sum_ = plus_product(sum_, c6, load(errors, three + 3 * _PLACES))
                base = plus(base, sum_)
            waiting = plus_product(base, far_, before)
            value = plus_product(minus(waiting, sign), near_, value)
            done = mark_negative(done, value, spread_word(np.int32(128 >> s)))
            before = error
            error = minus(value, signed(half, value))
            sign = signed(step, value)
            if edge >= 0:
                exists = load(there, edge + s * WIDE)
                error = times(error, exists)
                sign = times(sign, exists)
                value = times(value, exists)
            store(errors, e + REACH, error)
        store_bytes(marks, block * WIDE, done)
        at += STEPS * _PLACES
        passed = block % _BLOCKS + 1
        if passed == _BLOCKS or block == blocks + WIDE - 2:
            first = STEPS * (block + 1 - passed)
            _hand_on(errors, depth, count, first, STEPS * passed, handed)
            for j in range(0, _KEPT * _PLACES, WIDE):
                store(errors, j, load(errors, at - _KEPT * _PLACES + j))
    for r in range(count, depth):
        handed[r] = carried[r - count]


@njit(cache=True, nogil=True)
def _take_in(carried, depth, first, errors):  # type: ignore[no-untyped-def]
    """Put what the rows above handed down where a window's steps look for it.

    Not step by step: reading sixteen where one was just written waits for the memory.
    """
    for r in range(depth):
        down, ahead = carried[r], first + STEPS * (r + 1)
        for s in range(_BLOCKS * STEPS):
            put(errors, (_KEPT + s) * _PLACES + REACH - 1 - r, down[ahead + s])


@njit(cache=True, nogil=True)
def _hand_on(errors, depth, count, first, steps, handed):  # type: ignore[no-untyped-def]
    """Keep a window's errors of the last rows, for those below."""
    for r in range(min(depth, count)):
        lane = count - 1 - r
        down, behind = handed[r], first - STEPS * lane
        for s in range(max(-behind, 0), steps):
            put(down, behind + s, errors[(_KEPT + s) * _PLACES + REACH + lane])


@njit(cache=True, nogil=True)
def _above(e, rows):  # type: ignore[no-untyped-def]
    """Return where the errors straight above those of the step at `e` lie."""
    return e + REACH - rows - rows * STEPS * _PLACES
