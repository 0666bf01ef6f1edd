"""Look-up of a code by two others, for all that blends a picture with another."""

import numpy as np
from numba import njit
from numpy.typing import NDArray


def through_pairs(
    first: NDArray[np.uint8], second: NDArray[np.uint8], table: NDArray[np.uint8]
) -> NDArray[np.uint8]:
    """Return ``table[first, second]`` for every dot.

    Parameters
    ----------
    first, second : ndarray of uint8, shape (rows, cols)
    table : ndarray of uint8, shape (256, 256)
    """
    out = np.empty_like(first)
    _look_up(first.reshape(-1), second.reshape(-1), table.reshape(-1), out.reshape(-1))
    return out


@njit(cache=True, nogil=True)
def _look_up(first, second, table, out):  # type: ignore[no-untyped-def]
    for i in range(first.size):
        out[i] = table[(np.int64(first[i]) << 8) | second[i]]
