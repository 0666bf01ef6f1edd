"""A proof from afar: marks of packed dots, averaged under each pixel of a picture.

Rows are unpacked as they come, what lies around the dots of a row is found for many at
once, a row's marks are summed up from its left so that what lies under a pixel is the
difference of two sums, and strips of the picture are made beside one another.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots import BitGrid
from engraving.strips import in_strips

_ACROSS = 2
_SPREAD = np.unpackbits(np.arange(256, dtype=np.uint8)[:, None], axis=1).view(np.uint64)[
    :, 0
]
"""Eight dots of a byte, a byte each."""


def averaged_marks(
    bits: BitGrid,
    place: tuple[int, int, int, int],
    size: tuple[int, int],
    cells: NDArray[np.uint16],
) -> NDArray[np.uint16]:
    """Return the mean mark of each pixel of a picture with fewer pixels than dots.

    Parameters
    ----------
    bits : BitGrid
        Dots of one power.
    place : tuple of int
        Left, top, columns and rows of the window; beyond the grid nothing is burned.
    size : tuple of int
        Width and height of the picture, at most a pixel a dot each way.
    cells : ndarray of uint16, shape (32768,)
        A dot's mean mark by its 5 × 3 neighbourhood, see `SpotModel`.

    Returns
    -------
    ndarray of uint16, shape (height, width)
        65535 is the answer's top. A dot on the edge of two pixels counts for both by
        share.
    """
    out = np.zeros((size[1], size[0]), np.uint16)
    packed = np.ascontiguousarray(bits.packed)
    in_strips(
        size[1],
        lambda first, last: _average(
            packed, bits.cols, place, cells, _SPREAD, out, first, last
        ),
    )
    return out


@njit(cache=True, nogil=True)
def _unpack(packed, y, grid_cols, left, spread, eights, line):  # type: ignore[no-untyped-def]
    """Fill `line` with the dots of a row from column `left` on."""
    a, b = max(left, 0), min(left + line.size, grid_cols)
    line[:] = 0
    if y < 0 or y >= packed.shape[0] or a >= b:
        return
    first, last = a >> 3, (b + 7) >> 3
    row = packed[y]
    for k in range(first, last):
        eights[k - first] = spread[row[k]]
    dots = eights.view(np.uint8)
    line[a - left : b - left] = dots[a - 8 * first : b - 8 * first]


@njit(cache=True, nogil=True)
def _add_up(above, own, below, table, column, places, run):  # type: ignore[no-untyped-def]
    """Fill `run` with a row's marks summed up from its left."""
    for x in range(column.size):
        column[x] = (above[x] << 2) | (own[x] << 1) | below[x]
    for x in range(places.size):
        places[x] = (
            (column[x] << 12) | (column[x + 1] << 9) | (column[x + 2] << 6)
            | (column[x + 3] << 3) | column[x + 4]
        )  # fmt: skip
    total = np.int64(0)
    for x in range(places.size):
        total += table[places[x]]
        run[x + 1] = total
    run[places.size + 1] = total


@njit(cache=True, nogil=True)
def _under_pixels(run, edge, part, sums, overs, line):  # type: ignore[no-untyped-def]
    """Fill `line` with the marks under each pixel, of sums from the left."""
    for p in range(line.size):
        at = edge[p]
        sums[p + 1] = run[at]
        overs[p + 1] = part[p] * np.float32(run[at + 1] - run[at])
    for p in range(line.size):
        line[p] = np.float32(sums[p + 1] - sums[p]) + (overs[p + 1] - overs[p])


@njit(cache=True, nogil=True)
def _average(packed, grid_cols, place, table, spread, out, first, last):  # type: ignore[no-untyped-def]
    """Average the marks under the pixels of rows `first` to `last`, keeping none."""
    left, top, cols, rows = place
    height, width = out.shape
    across, down = cols / width, rows / height
    lines = np.zeros((3, cols + 2 * _ACROSS), np.uint8)
    eights = np.zeros(lines.shape[1] // 8 + 2, np.uint64)
    column = np.zeros(lines.shape[1], np.uint16)
    places = np.zeros(cols, np.uint16)
    # One longer than a row, so that the dot after the last one's edge is nothing.
    run = np.zeros(cols + 2, np.int64)
    edge, part = np.zeros(width, np.int64), np.zeros(width, np.float32)
    for p in range(width):
        end = min((p + 1) * across, float(cols))
        edge[p], part[p] = int(end), np.float32(end - int(end))
    sums, overs = np.zeros(width + 1, np.int64), np.zeros(width + 1, np.float32)
    line, total = np.zeros(width, np.float32), np.zeros(width, np.float32)
    scale = np.float32(1 / (across * down))
    done, filled = first, first * down
    start = int(filled)
    for k in range(2):
        _unpack(packed, top + start - 1 + k, grid_cols, left - _ACROSS, spread, eights,
                lines[(start - 1 + k) % 3])  # fmt: skip
    for y in range(start, rows):
        _unpack(packed, top + y + 1, grid_cols, left - _ACROSS, spread, eights,
                lines[(y + 1) % 3])  # fmt: skip
        _add_up(lines[(y - 1) % 3], lines[y % 3], lines[(y + 1) % 3], table, column,
                places, run)  # fmt: skip
        _under_pixels(run, edge, part, sums, overs, line)
        # The row belongs to the pixels it lies under, or to two by share.
        if filled > y:
            rest = min(y + 1.0 - filled, down)
            share, filled = np.float32(rest), filled + rest
        else:
            share = np.float32(min(y + 1.0, (done + 1) * down) - y)
            filled = min(y + 1.0, (done + 1) * down)
        for p in range(width):
            total[p] += share * line[p]
        while done < last and filled >= (done + 1) * down - 1e-9:
            for p in range(width):
                out[done, p] = np.uint16(min(total[p] * scale + np.float32(0.5), 65535.0))
            done += 1
            rest = min(y + 1.0 - filled, down)
            for p in range(width):
                total[p] = np.float32(rest) * line[p]
            filled += rest
        if done == last:
            return
