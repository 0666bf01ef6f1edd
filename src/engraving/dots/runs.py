"""Runs of dots too short for the beam: lengthened or dropped, and counted.

A beam takes its response time to come up, so at speed v nothing shorter than
v times that time is burned as planned.
"""

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray


def least_run_dots(least_mm: float, along_mm: float) -> int:
    """Return how many dots the shortest run must have that the beam can burn."""
    return max(1, math.ceil(least_mm / along_mm - 1e-9))


def count_short(packed: NDArray[np.uint8], cols: int, least: int) -> int:
    """Return how many runs of packed dots are shorter than `least` dots."""
    dots = np.zeros(cols, np.uint8)
    return int(_short_runs(packed, dots, least, 0))


def without_short(
    packed: NDArray[np.uint8], cols: int, least: int, rule: str
) -> NDArray[np.uint8]:
    """Return packed dots whose short runs are dealt with by a rule.

    Parameters
    ----------
    packed : ndarray of uint8, shape (rows, ceil(cols / 8))
    cols : int
        Dots in a row.
    least : int
        Runs of fewer dots are short.
    rule : str
        ``drop`` leaves them unburned; ``lengthen`` joins one to the run
        before it where the gap is no wider than what is missing, else burns
        on until it is long enough or meets the next run or the edge; what is
        still short then is dropped.
    """
    out = packed.copy()
    dots = np.zeros(cols, np.uint8)
    _short_runs(out, dots, least, 1 if rule == "drop" else 2)
    return out


@njit(cache=True, nogil=True)
def _short_runs(packed, dots, least, rule):  # type: ignore[no-untyped-def]
    """Count short runs row by row; rule 1 drops them, 2 lengthens them first."""
    cols = dots.size
    short = 0
    for y in range(packed.shape[0]):
        line = packed[y]
        for x in range(cols):
            dots[x] = (line[x >> 3] >> (7 - (x & 7))) & 1
        before = -cols - least
        x = 0
        while x < cols:
            if not dots[x]:
                x += 1
                continue
            start = x
            while x < cols and dots[x]:
                x += 1
            if x - start >= least:
                before = x
                continue
            short += 1
            if rule == 0:
                continue
            if rule == 2 and start - before <= least - (x - start):
                dots[before:x] = 1
                before = x
                continue
            end = min(start + least, cols)
            if rule == 2:
                dots[x:end] = 1
                x = end
                while x < cols and dots[x]:
                    x += 1
            if x - start < least:
                dots[start:x] = 0
            else:
                before = x
        if rule:
            line[:] = 0
            for x in range(cols):
                if dots[x]:
                    line[x >> 3] |= np.uint8(128 >> (x & 7))
    return short
