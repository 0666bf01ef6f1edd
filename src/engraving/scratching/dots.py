"""Rows of dots as scratches: from the middle of a run's first dot to that of its last."""

import numpy as np
from numpy.typing import NDArray

from engraving.dots import BitGrid

Values = NDArray[np.float64]


def scratch_dots(
    bits: BitGrid, cell_mm: tuple[float, float], *, both_ways: bool = True
) -> list[Values]:
    """Return the scratches of dots, row by row, every other row backward.

    Parameters
    ----------
    bits : BitGrid
    cell_mm : tuple of float
        Length of a dot and distance of the rows: the width of the point's mark.
    both_ways : bool
        Else each row is scratched from left to right.

    Returns
    -------
    list of ndarray, shape (1 or 2, 2)
        mm from the grid's top left corner, x right, y down; a lone dot is one point.
    """
    along, pitch = cell_mm
    found: list[Values] = []
    burned = 0
    for row, dots in enumerate(bits.unpack()):
        edges = np.flatnonzero(np.diff(dots, prepend=0, append=0)).reshape(-1, 2)
        if not len(edges):
            continue
        backward = both_ways and burned % 2 == 1
        burned += 1
        y = (row + 0.5) * pitch
        for first, end in edges[::-1] if backward else edges:
            ends = [(first + 0.5) * along, (end - 0.5) * along]
            if end - first == 1:
                ends = ends[:1]
            found.append(np.array([(x, y) for x in (ends[::-1] if backward else ends)]))
    return found
