"""Eight dots to a byte."""

import numpy as np
from numba import njit

_GATHER = np.uint64(0x8040201008040201)


@njit(cache=True, nogil=True)
def pack(burn, line):  # type: ignore[no-untyped-def]
    """Gather bytes of 0 and 1 into bits, the first of eight to the highest bit.

    One multiplication brings eight bytes' lowest bits together in the topmost byte.

    Parameters
    ----------
    burn : ndarray of uint8, shape (8 n,)
    line : ndarray of uint8, shape (n,)
    """
    words = burn.view(np.uint64)
    for i in range(line.size):
        line[i] = np.uint8((words[i] * _GATHER) >> np.uint64(56))
