"""Error diffusion: one compiled kernel for every weight table.

Each row is made in two passes. The first sums what the two rows above hand
down, for the whole row at once (vector instructions); the second walks the
row, adds what comes from the dots just made, compares and keeps the error.
Only four rows of float32 errors exist at any time, so a picture of any
height streams through in bands.

Values are kept relative to the threshold, so that white is 0 or more and the
negative of a picture gives the exact complement. The order of operations is
fixed and no fused multiply-add is used, so the same picture gives the same
dots on every processor::

    base  = (level - 127.5) + a0·u[x-2] + … + a4·u[x+2]          row above
                            + (b0·w[x-2] + … + b4·w[x+2])        two above
                            + (what a table of greater reach hands down)
    value = ((base + far·e[x-2]) - near·(±127.5)) + near·value[x-1]
    e     = value - (±127.5)                  the sign is that of the value

The last error's share is split into its value and its ±127.5, since the
first needs no comparison: that shortens the one chain of operations that
cannot run in parallel by a third.

Where rows run one way, `engraving.dots.compiled.lanes` makes the same dots sooner.

With a moved threshold the sign is that of ``value + bias[x]``, the error
still that of the value: whatever the threshold does, the mean is kept.

Convention: a value of 127.5 or more is white, errors are not clamped, error
over an edge is dropped. Serpentine scanning turns rows 1, 3, 5 … and mirrors
the weights.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots.compiled.lanes import Lanes
from engraving.dots.kernels import Kernel
from engraving.dots.packing import pack
from engraving.dots.scalar import copysign32
from engraving.progress import tell

_AT_ONCE_PX, _ROWS = 1 << 26, 16
"""Larger pictures go in parts of whole sixteens of rows, to say how far they are."""
_PAD = 3
_RING = 4
_HALF = np.float32(127.5)


@njit(cache=True, nogil=True)
def _hand_down(row, above, two_above, a, b, base):  # type: ignore[no-untyped-def]
    """Sum level and errors from above; weights a, b run over x-3 … x+3."""
    n = base.size
    a0, a1, a2, a3, a4 = a[1], a[2], a[3], a[4], a[5]
    b0, b1, b2, b3, b4 = b[1], b[2], b[3], b[4], b[5]
    u0, u1, u2, u3, u4 = (
        above[1 : n + 1],
        above[2 : n + 2],
        above[3 : n + 3],
        above[4 : n + 4],
        above[5 : n + 5],
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
            two_above[1 : n + 1],
            two_above[2 : n + 2],
            two_above[3 : n + 3],
            two_above[4 : n + 4],
            two_above[5 : n + 5],
        )
        for x in range(n):
            base[x] += b0 * w0[x] + b1 * w1[x] + b2 * w2[x] + b3 * w3[x] + b4 * w4[x]


@njit(cache=True, nogil=True)
def _hand_down_far(above, three_above, a, c, base):  # type: ignore[no-untyped-def]
    """Add what comes from three columns aside and from three rows above."""
    n = base.size
    a0, a6 = a[0], a[6]
    c0, c2, c4, c6 = c[0], c[2], c[4], c[6]
    u0, u6 = above[0:n], above[6 : n + 6]
    w0, w2, w4, w6 = (
        three_above[0:n],
        three_above[2 : n + 2],
        three_above[4 : n + 4],
        three_above[6 : n + 6],
    )
    for x in range(n):
        base[x] += a0 * u0[x] + a6 * u6[x]
        base[x] += c0 * w0[x] + c2 * w2[x] + c4 * w4[x] + c6 * w6[x]


@njit(cache=True, nogil=True)
def _walk_right(base, errors, burn, near, far):  # type: ignore[no-untyped-def]
    step = near * _HALF
    before = np.float32(0)
    value = base[0]
    last = base.size - 1
    for x in range(last):
        waiting = base[x + 1] + far * before
        before = value - copysign32(_HALF, value)
        errors[x + _PAD] = before
        burn[x] = value < 0
        value = (waiting - copysign32(step, value)) + near * value
    errors[last + _PAD] = value - copysign32(_HALF, value)
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
        errors[x + _PAD] = before
        burn[x] = value < 0
        value = (waiting - copysign32(step, value)) + near * value
    errors[_PAD] = value - copysign32(_HALF, value)
    burn[0] = value < 0


@njit(cache=True, nogil=True)
def _walk_moved(base, bias, errors, burn, near, far, left):  # type: ignore[no-untyped-def]
    """Walk either way with a threshold that is moved by `bias` at each dot."""
    step = near * _HALF
    before = np.float32(0)
    n = base.size
    x, way = (n - 1, -1) if left else (0, 1)
    value = base[x]
    for _ in range(n - 1):
        seen = value + bias[x]
        waiting = base[x + way] + far * before
        before = value - copysign32(_HALF, seen)
        errors[x + _PAD] = before
        burn[x] = seen < 0
        value = (waiting - copysign32(step, seen)) + near * value
        x += way
    seen = value + bias[x]
    errors[x + _PAD] = value - copysign32(_HALF, seen)
    burn[x] = seen < 0


@njit(cache=True, nogil=True)
def _move_threshold(row, tile, edges, bias):  # type: ignore[no-untyped-def]
    """Fill `bias`: a row of noise, and a share of each dot's own tone."""
    wide = tile.size
    for x in range(bias.size):
        bias[x] = tile[x % wide] + edges * (np.float32(row[x]) - _HALF)


@njit(cache=True, nogil=True)
def _diffuse_band(levels, packed, shares, ring, burn, start, turning, moved):  # type: ignore[no-untyped-def]
    """Make the dots of a band of rows; `ring` holds the errors between bands."""
    rows, cols = levels.shape
    row_burn = burn[:cols]
    noise, edges = moved
    still = edges == 0 and noise.shape[0] == 1
    far_reaching = shares[3].any() or shares[1, 0] != 0
    ahead, mirrored = shares, shares[:, ::-1].copy()
    base, bias = np.zeros(cols, np.float32), np.zeros(cols, np.float32)
    for i in range(rows):
        y = start + i
        above, two_above = ring[(y + 3) % _RING], ring[(y + 2) % _RING]
        three_above, errors = ring[(y + 1) % _RING], ring[y % _RING]
        left = turning and y % 2 == 1
        # A weight given to dx ahead is pulled from dx behind: hence mirrored
        # for a row that ran to the right.
        one = ahead[1] if turning and (y - 1) % 2 == 1 else mirrored[1]
        two = ahead[2] if left else mirrored[2]
        _hand_down(levels[i], above, two_above, one, two, base)
        if far_reaching:
            three = ahead[3] if turning and (y - 3) % 2 == 1 else mirrored[3]
            _hand_down_far(above, three_above, one, three, base)
        near, far = shares[0, _PAD + 1], shares[0, _PAD + 2]
        if not still:
            _move_threshold(levels[i], noise[y % noise.shape[0]], edges, bias)
            _walk_moved(base, bias, errors, row_burn, near, far, left)
        elif left:
            _walk_left(base, errors, row_burn, near, far)
        else:
            _walk_right(base, errors, row_burn, near, far)
        pack(burn, packed[i])


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
    noise : ndarray of float32, shape (n, m), optional
        Moves of the threshold in codes, repeated over the grid.
    edges : float
        Move of the threshold by so many times a dot's own tone, which
        sharpens edges (Eschbach & Knox 1991, J. Optical Society of America A
        8:1844-1850).
    plain : bool
        Do without `engraving.dots.compiled.lanes`, which makes the same dots sooner
        wherever rows run one way; to hold the one against the other.
    """

    def __init__(
        self,
        kernel: Kernel,
        cols: int,
        *,
        serpentine: bool,
        noise: NDArray[np.float32] | None = None,
        edges: float = 0.0,
        plain: bool = False,
    ) -> None:
        self._shares = kernel.shares()
        still = noise is None and edges == 0
        quick = still and not serpentine and not plain
        self._lanes = Lanes(self._shares, cols) if quick else None
        self._ring = np.zeros((_RING, cols + 2 * _PAD), np.float32)
        self._burn = np.zeros(-(-cols // 8) * 8, np.uint8)
        self._cols = cols
        self._turning = serpentine
        tile = np.zeros((1, 1), np.float32) if noise is None else noise
        self._moved = np.ascontiguousarray(tile, np.float32), np.float32(edges)
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
        if self._lanes is not None:
            return self._lanes.feed(levels)
        packed = np.zeros((levels.shape[0], self._burn.size // 8), np.uint8)
        _diffuse_band(
            levels,
            packed,
            self._shares,
            self._ring,
            self._burn,
            self._row,
            self._turning,
            self._moved,
        )
        self._row += levels.shape[0]
        return packed


def diffuse(
    levels: NDArray[np.uint8],
    kernel: Kernel,
    *,
    serpentine: bool,
    noise: NDArray[np.float32] | None = None,
    edges: float = 0.0,
    before: NDArray[np.uint8] | None = None,
) -> NDArray[np.uint8]:
    """Return the packed dots of a whole picture; see `Diffuser`.

    `before` are rows above it that are run over first and thrown away.
    """
    cols = levels.shape[1]
    whole = Diffuser(kernel, cols, serpentine=serpentine, noise=noise, edges=edges)
    if before is not None:
        whole.feed(before)
    rows = levels.shape[0]
    if levels.size <= _AT_ONCE_PX:
        return whole.feed(levels)
    packed = np.zeros((rows, (cols + 7) // 8), np.uint8)
    step = max(_ROWS, _AT_ONCE_PX // cols // _ROWS * _ROWS)
    for top in range(0, rows, step):
        packed[top : top + step] = whole.feed(levels[top : top + step])
        tell("Making the dots", min(top + step, rows), rows)
    return packed
