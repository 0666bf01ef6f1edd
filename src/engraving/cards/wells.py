"""What measured wells say: how deep a pass takes away, at each power."""

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby
from operator import itemgetter


@dataclass(frozen=True)
class WellsFound:
    """What the wells of one power come to.

    Attributes
    ----------
    column : int
    per_pass_mm : float
        Depth of a pass, by least squares through nought.
    off_mm : float
        How far a well lies beside that at most.
    wells : int
    """

    column: int
    per_pass_mm: float
    off_mm: float
    wells: int


def wells_found(wells: Iterable[tuple[int, int, float]]) -> list[WellsFound]:
    """Return what a pass takes away at each power.

    Parameters
    ----------
    wells : iterable of (column, passes, depth in mm)
        Depth is Σ n·d / Σ n² a pass (least squares of d = n·a; plain algebra).
    """
    found = []
    for column, group in groupby(sorted(wells), key=itemgetter(0)):
        own = [(passes, mm) for _, passes, mm in group]
        taken = sum(n * mm for n, mm in own) / sum(n * n for n, _ in own)
        off = max(abs(mm - n * taken) for n, mm in own)
        found.append(WellsFound(column, taken, off, len(own)))
    return found
