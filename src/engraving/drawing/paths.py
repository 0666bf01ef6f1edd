"""What a drawing holds: its lines in the file's order, and what was left out of it."""

from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]
"""Shape (n, 2), mm, y upwards."""

FINE_MM = 0.01
"""How far a flattened curve may lie beside the drawn one."""


def without_repeats(points: Points, near_mm: float = 0.0) -> Points:
    """Return points without those that lie on the one before."""
    fresh = np.ones(len(points), bool)
    fresh[1:] = np.abs(np.diff(points, axis=0)).max(axis=1, initial=0) > near_mm
    return points[fresh]


@dataclass(frozen=True)
class DrawnPath:
    """One line of a drawing.

    Attributes
    ----------
    points : ndarray, shape (n, 2)
        In mm, y upwards; a closed line does not repeat its first point.
    closed : bool
    shape : int
        Which shape of the file it belongs to; its lines lie next to one another.
    nonzero : bool
        How the shape is filled (SVG 2, fill-rule): where lines wind round a place,
        else where an odd number of them does.
    """

    points: Points
    closed: bool
    shape: int = 0
    nonzero: bool = False

    @property
    def length_mm(self) -> float:
        """Length of the line, back to its first point where it is closed."""
        round_ = np.roll(self.points, -1, axis=0) - self.points
        steps = round_ if self.closed else round_[:-1]
        return float(np.hypot(*steps.T).sum())


@dataclass(frozen=True)
class Drawn:
    """A drawing as it was read.

    Attributes
    ----------
    paths : tuple of DrawnPath
    left_out : mapping of str to int
        What was not taken, in words for one of it, and how often.
    """

    paths: tuple[DrawnPath, ...]
    left_out: Mapping[str, int] = field(default_factory=Counter)

    @property
    def words(self) -> tuple[str, ...]:
        """What was left out, a phrase each: "2 × on a hidden layer"."""
        return tuple(
            what if count == 1 else f"{count} × {what}"
            for what, count in self.left_out.items()
        )
