"""From what pieces showed to a better tone curve, a step at a time."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

Values = NDArray[np.float64]
Curve = tuple[tuple[float, float], ...]
"""Burned share in % and lightness L*, by rising share."""

KNOTS: Values = np.linspace(0, 1, 17)
"""Burned shares at which curves are held against one another."""
KNOTS.setflags(write=False)

STEP = 12.0
"""So many L* a curve is moved at most, however far off a piece lies."""

_LEAST_COVERED = 0.25


@dataclass(frozen=True)
class Learned:
    """What one piece says of its tone curve.

    Attributes
    ----------
    lightness : tuple of float
        L* at each of `KNOTS`.
    covered : tuple of float
        0..1: how much of the piece speaks of it.
    """

    lightness: tuple[float, ...]
    covered: tuple[float, ...]


@dataclass(frozen=True)
class Amendment:
    """A tone curve as pieces would have it.

    Attributes
    ----------
    patches : tuple of (float, float)
        The amended curve.
    moved : tuple of float
        By how many L* it differs from the present one, at each of `KNOTS`.
    pieces : int
        How many it rests on.
    apart : float
        Standard deviation of the pieces among themselves in L*, where several speak.
    held : bool
        Whether they ask for more than `STEP` somewhere.
    """

    patches: Curve
    moved: tuple[float, ...]
    pieces: int
    apart: float
    held: bool

    @property
    def largest(self) -> float:
        """The largest move, signed, in L*."""
        return max(self.moved, key=abs)


def at_knots(curve: Curve) -> Values:
    """Return the L* of a curve at `KNOTS`, its ends held."""
    share, light = (np.array(axis) for axis in zip(*curve, strict=True))
    inside = np.clip(100 * KNOTS, share[0], share[-1])
    return np.asarray(scipy.interpolate.PchipInterpolator(share, light)(inside), np.float64)


def amended(known: Curve, pieces: Sequence[Learned]) -> Amendment | None:
    """Return a curve moved towards what pieces showed; None where none says anything.

    One piece is believed by half, two by three quarters, n by ``1 − 2⁻ⁿ``, each
    counting as far as it covers a tone; tones that none covers move with their
    neighbours. No tone moves by more than `STEP`, and the result runs one way.

    Parameters
    ----------
    known : tuple of (float, float)
        The present curve.
    pieces : sequence of Learned
    """
    if not pieces:
        return None
    now = at_knots(known)
    light = np.array([one.lightness for one in pieces])
    covered = np.array([one.covered for one in pieces])
    total = covered.sum(axis=0)
    spoken = total >= _LEAST_COVERED
    if not spoken.any():
        return None
    mean = (covered * light).sum(axis=0) / np.maximum(total, _LEAST_COVERED)
    asked = np.interp(KNOTS, KNOTS[spoken], (mean - now)[spoken])
    trust = np.interp(KNOTS, KNOTS[spoken], (1 - 0.5**total)[spoken])
    moved = np.clip(trust * asked, -STEP, STEP)
    level = scipy.optimize.isotonic_regression(
        now + moved, increasing=bool(now[-1] >= now[0])
    ).x
    level = np.clip(level, 0, 100)
    patches = tuple(
        (round(100 * float(share), 3), round(float(one), 2))
        for share, one in zip(KNOTS, level, strict=True)
    )
    return Amendment(
        patches,
        tuple(round(float(one), 2) for one in level - now),
        len(pieces),
        _apart(light, covered, mean),
        bool((np.abs(trust * asked) > STEP).any()),
    )


def _apart(light: Values, covered: Values, mean: Values) -> float:
    several = (covered > _LEAST_COVERED).sum(axis=0) > 1
    if not several.any():
        return 0.0
    off = covered * (light - mean) ** 2
    spread = off.sum(axis=0)[several] / covered.sum(axis=0)[several]
    return round(float(np.sqrt(spread.mean())), 2)
