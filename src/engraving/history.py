"""What a machine's own burns teach of its time: a factor, and a constant for each row.

What a controller does otherwise than it is said to shows at the rows' ends, where the head
turns round: another acceleration costs so much a row.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

LEAST = 3
"""Fewer burns say too little."""
MOST = 40
_LIKELY = 0.8
_FACTORS = (0.2, 5.0)
_LEAST_SHARE = 0.2


@dataclass(frozen=True)
class Burned:
    """How long a burn took: planned, truly, and its rows."""

    planned_s: float
    took_s: float
    rows: int


@dataclass(frozen=True)
class Correction:
    """How long a machine takes for what is planned.

    Attributes
    ----------
    factor : float
        Times the planned seconds.
    row_s : float
        Seconds more, or less, for each row.
    spread : float
        Four of five burns were off by so much at most, as a share.
    burns : int
        How many it was fitted to; 0: to none, and nothing is corrected.
    """

    factor: float = 1.0
    row_s: float = 0.0
    spread: float = 0.0
    burns: int = 0

    def seconds(self, planned_s: float, rows: int) -> float:
        """Return how long it will take."""
        if not self.burns:
            return planned_s
        return max(self.factor * planned_s + self.row_s * rows, _LEAST_SHARE * planned_s)


AS_PLANNED = Correction()


def fitted(burns: Sequence[Burned]) -> Correction:
    """Fit a correction to burns.

    Least absolute deviations of the shares that are missed: a burn that was disturbed pulls
    nothing. With two unknowns the best fit goes through two of the burns (with a factor
    alone, through one), so all of them are tried.

    Parameters
    ----------
    burns : sequence of Burned
        The newest first; at most `MOST` are looked at.

    Returns
    -------
    Correction
        With no burns where there are fewer than `LEAST`.
    """
    usable = [one for one in burns if one.planned_s > 0 and one.took_s > 0][:MOST]
    if len(usable) < LEAST:
        return AS_PLANNED
    terms = np.array([(one.planned_s, one.rows) for one in usable], float)
    took = np.array([one.took_s for one in usable])
    best = min(_fits(terms, took), key=lambda one: _missed(one, terms, took).sum())
    missed = _missed(best, terms, took)
    return Correction(*best, float(np.quantile(missed, _LIKELY)), len(usable))


def _missed(
    fit: tuple[float, float], terms: NDArray[np.float64], took: NDArray[np.float64]
) -> NDArray[np.float64]:
    return np.abs(terms @ np.array(fit) / took - 1)


def _fits(
    terms: NDArray[np.float64], took: NDArray[np.float64]
) -> list[tuple[float, float]]:
    """Return the fits that may be the best: through one burn, and through two."""
    found = [(float(t / p), 0.0) for (p, _), t in zip(terms, took, strict=True)]
    for i, j in combinations(range(len(terms)), 2):
        (p, n), (q, m) = terms[i], terms[j]
        if abs(p * m - q * n) > 1e-6 * p * q:
            factor, row_s = np.linalg.solve(terms[[i, j]], took[[i, j]])
            found.append((float(factor), float(row_s)))
    least, most = _FACTORS
    return [one for one in found if least <= one[0] <= most] or [(1.0, 0.0)]
