"""How much closed lines go round."""

import numpy as np
from numba import njit
from numpy.typing import NDArray


@njit(cache=True, nogil=True)
def signed_area(ring):  # type: ignore[no-untyped-def]
    """Return the area a ring goes round, counter-clockwise above 0.

    Parameters
    ----------
    ring : ndarray of float64, shape (n, 2)
        Its last point is joined to its first.
    """
    x, y, total = ring[0, 0], ring[0, 1], 0.0
    for i in range(len(ring)):
        here, ahead = ring[i], ring[(i + 1) % len(ring)]
        # From its first point: far from the middle, products would drown the difference.
        total += (here[0] - x) * (ahead[1] - y) - (here[1] - y) * (ahead[0] - x)
    return total / 2


def areas_of(
    points: NDArray[np.float64], counts: NDArray[np.integer]
) -> NDArray[np.float64]:
    """Return what rings, one after the other, go round.

    Parameters
    ----------
    points : ndarray, shape (n, 2)
        Of all rings; each ends where it began.
    counts : ndarray of int
        How many points each has.
    """
    ahead = np.concatenate((points[1:], points[:1]))
    cross = points[:, 0] * ahead[:, 1] - points[:, 1] * ahead[:, 0]
    counts = counts.astype(np.intp)
    first = np.cumsum(counts) - counts
    # An edge ends where it began, so what lies between two edges adds nothing.
    cross[first + counts - 1] = 0
    return np.asarray(np.abs(np.add.reduceat(cross, first)) / 2)
