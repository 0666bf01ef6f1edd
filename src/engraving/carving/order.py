"""Strokes in an order of short ways."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float64]


def by_short_ways(strokes: Sequence[Values], start: Values) -> list[Values]:
    """Return strokes in an order, the nearest next, each from the end that is nearer.

    Parameters
    ----------
    strokes : sequence of ndarray, shape (n, 3)
    start : ndarray, shape (2,)
        Where the tool stands before.
    """
    if not strokes:
        return []
    ends = np.array([(one[0, :2], one[-1, :2]) for one in strokes]).reshape(-1, 2)
    left = np.ones(len(ends), bool)
    at, done = np.asarray(start, np.float64), []
    for _ in strokes:
        far = np.where(left, ((ends - at) ** 2).sum(axis=1), np.inf)
        best = int(np.argmin(far))
        stroke = strokes[best // 2]
        done.append(stroke[::-1] if best % 2 else stroke)
        left[best - best % 2 : best - best % 2 + 2] = False
        at = done[-1][-1, :2]
    return done
