"""Ordered dither and plain threshold: each dot decides for itself.

Source of the matrix: Bayer 1973, IEEE Int. Conf. on Communications
1:26-11–26-15, by its recursion M(2n) = [[4M, 4M+2], [4M+3, 4M+1]].
"""

import numpy as np
from numpy.typing import NDArray


def bayer_matrix(size: int) -> NDArray[np.int64]:
    """Return Bayer's matrix, a permutation of 0 … size²-1; `size` a power of 2."""
    matrix = np.zeros((1, 1), np.int64)
    while matrix.shape[0] < size:
        matrix = np.block([[4 * matrix, 4 * matrix + 2], [4 * matrix + 3, 4 * matrix + 1]])
    return matrix


def bayer_thresholds(size: int) -> NDArray[np.uint8]:
    """Return the codes from which a cell stays white.

    A dot is white when g/255 > (M + ½)/n², so the lowest white code is the
    next whole number above 255 (M + ½)/n².
    """
    edge = 255 * (2 * bayer_matrix(size) + 1)
    return (edge // (2 * size * size) + 1).clip(0, 255).astype(np.uint8)


def ordered(levels: NDArray[np.uint8], thresholds: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return packed dots; a level below its tiled threshold is burned.

    Parameters
    ----------
    levels : ndarray of uint8, shape (rows, cols)
        0 is burned solid, 255 left untouched.
    thresholds : ndarray of uint8, shape (n, m)
        Repeated over the grid from its top left.

    Returns
    -------
    ndarray of uint8, shape (rows, ceil(cols / 8))
    """
    rows, cols = levels.shape
    high, wide = thresholds.shape
    tile = np.tile(thresholds, (1, -(-cols // wide)))[:, :cols]
    packed = np.zeros((rows, -(-cols // 8)), np.uint8)
    for phase in range(high):
        packed[phase::high] = np.packbits(levels[phase::high] < tile[phase], axis=1)
    return packed


def threshold(levels: NDArray[np.uint8], share: float) -> NDArray[np.uint8]:
    """Return packed dots; levels below `share` (0..1) of 255 are burned."""
    return np.packbits(levels < np.float32(255 * share), axis=1)
