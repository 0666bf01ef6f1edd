"""Error diffusion: one compiled kernel for every weight table.

Each row is made in two passes. The first sums what the two rows above hand
down, for the whole row at once (vector instructions); the second walks the
row, adds what comes from the dots just made, compares and keeps the error.
Only three rows of float32 errors exist at any time, so a picture of any
height streams through in bands.

Values are kept relative to the threshold, so that white is 0 or more and the
negative of a picture gives the exact complement. The order of operations is
fixed and no fused multiply-add is used, so the same picture gives the same
dots on every processor::

    base  = (level - 127.5) + a0·u[x-2] + … + a4·u[x+2]          row above
                            + (b0·w[x-2] + … + b4·w[x+2])        two above
    value = ((base + far·e[x-2]) - near·(±127.5)) + near·value[x-1]
    e     = value - (±127.5)                  the sign is that of the value

The last error's share is split into its value and its ±127.5, since the
first needs no comparison: that shortens the one chain of operations that
cannot run in parallel by a third.

Convention: a value of 127.5 or more is white, errors are not clamped, error
over an edge is dropped. Serpentine scanning turns rows 1, 3, 5 … and mirrors
the weights.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots.kernels import Kernel
from engraving.dots.scalar import copysign32

_PAD = 2
_HALF = np.float32(127.5)
_GATHER = np.uint64(0x8040201008040201)


@njit(cache=True, nogil=True)
def _hand_down(row, above, two_above, a, b, base):  # type: ignore[no-untyped-def]
    """Sum level and errors from above; weights a, b run over x-2 … x+2."""
    n = base.size
    a0, a1, a2, a3, a4 = a[0], a[1], a[2], a[3], a[4]
    b0, b1, b2, b3, b4 = b[0], b[1], b[2], b[3], b[4]
    u0, u1, u2, u3, u4 = (
        above[0:n],
        above[1 : n + 1],
        above[2 : n + 2],
        above[3 : n + 3],
        above[4 : n + 4],
    )
    for x in range(n):
        base[x] = (
            (np.float32(row[x]) - _HALF)
            + a0 * u0[x]
            + a1 * u1[x]
            + a2 * u2[x]
            + a3 * u3[x]
            + a4 * u4[x]
        )
    if b0 != 0 or b1 != 0 or b2 != 0 or b3 != 0 or b4 != 0:
        w0, w1, w2, w3, w4 = (
            two_above[0:n],
            two_above[1 : n + 1],
            two_above[2 : n + 2],
            two_above[3 : n + 3],
            two_above[4 : n + 4],
        )
        for x in range(n):
            base[x] += b0 * w0[x] + b1 * w1[x] + b2 * w2[x] + b3 * w3[x] + b4 * w4[x]


@njit(cache=True, nogil=True)
def _walk_right(base, errors, burn, near, far):  # type: ignore[no-untyped-def]
    step = near * _HALF
    before = np.float32(0)
    value = base[0]
    last = base.size - 1
    for x in range(last):
        waiting = base[x + 1] + far * before
        before = value - copysign32(_HALF, value)
        errors[x + 2] = before
        burn[x] = value < 0
        value = (waiting - copysign32(step, value)) + near * value
    errors[last + 2] = value - copysign32(_HALF, value)
    burn[last] = value < 0


@njit(cache=True, nogil=True)
def _walk_left(base, errors, burn, near, far):  # type: ignore[no-untyped-def]
    step = near * _HALF
    before = np.float32(0)
    last = base.size - 1
    value = base[last]
    for i in range(last):
        x = last - i
        waiting = base[x - 1] + far * before
        before = value - copysign32(_HALF, value)
        errors[x + 2] = before
        burn[x] = value < 0
        value = (waiting - copysign32(step, value)) + near * value
    errors[2] = value - copysign32(_HALF, value)
    burn[0] = value < 0


@njit(cache=True, nogil=True)
def _pack(words, packed):  # type: ignore[no-untyped-def]
    """Gather eight 0/1 bytes into one, first byte to the highest bit."""
    for i in range(packed.size):
        packed[i] = np.uint8((words[i] * _GATHER) >> np.uint64(56))


@njit(cache=True, nogil=True)
def _diffuse_band(levels, packed, shares, ring, burn, words, start, turning):  # type: ignore[no-untyped-def]
    """Make the dots of a band of rows; `ring` holds the errors between bands."""
    rows, cols = levels.shape
    ahead, mirrored = shares, shares[:, ::-1].copy()
    base = np.zeros(cols, np.float32)
    for i in range(rows):
        y = start + i
        above = ring[(y + 2) % 3]
        two_above = ring[(y + 1) % 3]
        errors = ring[y % 3]
        # A weight given to dx ahead is pulled from dx behind: hence mirrored
        # for a row that ran to the right.
        one = ahead[1] if turning and (y - 1) % 2 == 1 else mirrored[1]
        two = ahead[2] if turning and y % 2 == 1 else mirrored[2]
        _hand_down(levels[i], above, two_above, one, two, base)
        if turning and y % 2 == 1:
            _walk_left(base, errors, burn, shares[0, 3], shares[0, 4])
        else:
            _walk_right(base, errors, burn, shares[0, 3], shares[0, 4])
        _pack(words, packed[i])


class Diffuser:
    """Error diffusion of one picture, band by band.

    Parameters
    ----------
    kernel : Kernel
        The weight table.
    cols : int
        Dots in a row.
    serpentine : bool
        Whether rows 1, 3, 5 … run from right to left.
    """

    def __init__(self, kernel: Kernel, cols: int, *, serpentine: bool) -> None:
        self._shares = kernel.shares()
        self._ring = np.zeros((3, cols + 2 * _PAD), np.float32)
        self._burn = np.zeros(-(-cols // 8) * 8, np.uint8)
        self._cols = cols
        self._turning = serpentine
        self._row = 0

    def feed(self, levels: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """Return the packed dots of the next rows.

        Parameters
        ----------
        levels : ndarray of uint8, shape (any, cols)
            0 is burned solid, 255 left untouched.

        Returns
        -------
        ndarray of uint8, shape (any, ceil(cols / 8))
            1 = burn, most significant bit on the left.
        """
        packed = np.zeros((levels.shape[0], self._burn.size // 8), np.uint8)
        _diffuse_band(
            levels,
            packed,
            self._shares,
            self._ring,
            self._burn[: self._cols],
            self._burn.view(np.uint64),
            self._row,
            self._turning,
        )
        self._row += levels.shape[0]
        return packed


def diffuse(
    levels: NDArray[np.uint8], kernel: Kernel, *, serpentine: bool
) -> NDArray[np.uint8]:
    """Return the packed dots of a whole picture; see `Diffuser.feed`."""
    return Diffuser(kernel, levels.shape[1], serpentine=serpentine).feed(levels)
