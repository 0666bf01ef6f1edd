"""Ordered dither and plain threshold: each dot decides for itself.

Sources: Bayer 1973, IEEE Int. Conf. on Communications 1:26-11–26-15, by its
recursion M(2n) = [[4M, 4M+2], [4M+3, 4M+1]]; void-and-cluster, Ulichney 1993,
Proc. SPIE 1913:332-343; Otsu 1979, IEEE Trans. SMC 9:62-66.
"""

from functools import cache
from importlib.resources import files

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots.packing import pack


def bayer_matrix(size: int) -> NDArray[np.int64]:
    """Return Bayer's matrix, a permutation of 0 … size²-1; `size` a power of 2."""
    matrix = np.zeros((1, 1), np.int64)
    while matrix.shape[0] < size:
        matrix = np.block([[4 * matrix, 4 * matrix + 2], [4 * matrix + 3, 4 * matrix + 1]])
    return matrix


@cache
def bayer_thresholds(size: int) -> NDArray[np.uint8]:
    """Return the codes from which a cell stays white.

    A dot is white when g/255 > (M + ½)/n², so the lowest white code is the
    next whole number above 255 (M + ½)/n².
    """
    edge = 255 * (2 * bayer_matrix(size) + 1)
    return (edge // (2 * size * size) + 1).clip(0, 255).astype(np.uint8)


@cache
def blue_noise_ranks() -> NDArray[np.uint16]:
    """Return the shipped void-and-cluster mask, a permutation of 0 … 16383.

    Shape (128, 128), seamless when repeated; made by
    ``scripts/make_blue_noise.py``.
    """
    with (files("engraving.dots") / "blue_noise_128.npy").open("rb") as stream:
        return np.asarray(np.load(stream), np.uint16)


@cache
def blue_noise_thresholds() -> NDArray[np.uint8]:
    """Return the codes from which a cell of the mask stays white.

    At code g just round(n²·g/255) cells are white.
    """
    ranks = blue_noise_ranks()
    whites = (np.arange(256) * ranks.size * 2 + 255) // 510
    return np.searchsorted(whites, ranks, side="right").astype(np.uint8)


@cache
def blue_noise_moves() -> NDArray[np.float32]:
    """Return the mask as moves of a threshold, -0.5 … 0.5, mean 0."""
    ranks = blue_noise_ranks()
    return ((ranks + 0.5) / ranks.size - 0.5).astype(np.float32)


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
    wide = thresholds.shape[1]
    bytes_ = -(-cols // 8)
    tile = np.tile(thresholds, (1, -(-8 * bytes_ // wide)))[:, : 8 * bytes_]
    packed = np.zeros((rows, bytes_), np.uint8)
    _compare(levels, np.ascontiguousarray(tile), np.zeros(8 * bytes_, np.uint8), packed)
    return packed


@njit(cache=True, nogil=True)
def _compare(levels, tile, burn, packed):  # type: ignore[no-untyped-def]
    rows, cols = levels.shape
    for y in range(rows):
        row, edge = levels[y], tile[y % tile.shape[0]]
        for x in range(cols):
            burn[x] = row[x] < edge[x]
        pack(burn, packed[y])


def threshold(levels: NDArray[np.uint8], share: float) -> NDArray[np.uint8]:
    """Return packed dots; levels below `share` (0..1) of 255 are burned."""
    return np.packbits(levels < np.float32(255 * share), axis=1)


def otsu_share(levels: NDArray[np.uint8]) -> float:
    """Return the share of 255 that parts dark from light best, by Otsu's rule.

    A level counts as light when it lies above Otsu's.
    """
    if levels.min() == levels.max():
        return 0.5
    found, _ = cv2.threshold(levels, 0, 255, cv2.THRESH_BINARY | cv2.THRESH_OTSU)
    return (found + 0.5) / 255
