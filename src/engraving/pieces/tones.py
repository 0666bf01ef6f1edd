"""The tones of a piece: expected in each cell, seen there, and the curve they make."""

from dataclasses import dataclass

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from engraving.colour.lightness import lightness
from engraving.pieces.amend import KNOTS, Learned
from engraving.pieces.expected import Expected

Values = NDArray[np.float64]

_STIFF = 0.02
"""How much a bend of the difference counts against one cell's."""
_FULLY_COVERED = 0.003
_STEEP = 8.0
"""Where tones change by so many L* from a cell to the next, a cell counts half."""
_ROUNDS = 4
_FAR = 6.0
_FAINTEST = 1e-4


@dataclass(frozen=True)
class Tone:
    """One tone: its burned share 0..1, its L* expected and seen, how much covers it."""

    share: float
    expected: float
    seen: float
    covered: float

    @property
    def off(self) -> float:
        """By how many L* it came out lighter."""
        return self.seen - self.expected


def per_lightness(light: Values) -> Values:
    """Return dL*/dY of luminances: by how many L* a little more light is lighter."""
    y = np.maximum(light, _FAINTEST)
    return np.where(y > 216 / 24389, 116 / 3 * y ** (-2 / 3), 24389 / 27)


def weights(expected: Expected, usable: NDArray[np.bool_]) -> Values:
    """Return how much each cell counts: less at edges, where no photo is sharp."""
    light = lightness(expected.light.astype(np.float64)).astype(np.float32)
    around = np.ones((3, 3), np.uint8)
    reach = cv2.dilate(light, around) - cv2.erode(light, around)
    return np.where(usable, 1 / (1 + (reach / _STEEP) ** 2), 0.0)


def learned(expected: Expected, seen: Values, weight: Values) -> tuple[Learned, list[Tone]]:
    """Return the curve that a piece's cells speak of, and its tones.

    The luminance of a cell is the mean over its dots of what their shares come out at
    (light is additive), so the curve's knots are found by least squares in light, each
    cell weighted as its error is seen in L*. Far ones are given less weight (Huber
    1964), and of what the cells leave open, the curve bends least away from the known.

    Parameters
    ----------
    expected : Expected
    seen : ndarray, shape (rows, cols)
        Luminance 0..1 of each cell.
    weight : ndarray, shape (rows, cols)
        How much each counts; 0 not at all.
    """
    used = weight > 0
    shares = expected.shares[used].astype(np.float64)
    known, light = expected.known, seen[used]
    steep = per_lightness(np.maximum(shares @ known, light))
    area = weight[used] / max(float(weight[used].sum()), 1e-9)
    bends = np.diff(np.eye(KNOTS.size), 2, axis=0) * per_lightness(known)
    off = np.zeros(KNOTS.size)
    trusted = np.ones(light.size)
    for _ in range(_ROUNDS):
        scale = steep * np.sqrt(area * trusted)
        rows = np.concatenate([shares * scale[:, None], np.sqrt(_STIFF) * bends])
        left = np.concatenate([(light - shares @ known) * scale, np.zeros(len(bends))])
        off, *_ = np.linalg.lstsq(rows, left, rcond=None)
        away = np.abs(light - shares @ (known + off)) * steep
        trusted = _FAR / np.maximum(away, _FAR)
    covered = np.clip((shares * area[:, None]).sum(axis=0) / _FULLY_COVERED, 0, 1)
    was = lightness(known)
    came = _one_way(lightness(np.clip(known + off, 0, 1)), covered, was)
    tones = [
        Tone(*(float(v) for v in four))
        for four in zip(KNOTS, was, came, covered, strict=True)
    ]
    told = Learned(
        tuple(round(float(v), 3) for v in came), tuple(round(float(v), 3) for v in covered)
    )
    return told, tones


def _one_way(came: Values, covered: Values, was: Values) -> Values:
    rising = bool(was[-1] >= was[0])
    level = scipy.optimize.isotonic_regression(
        came, weights=covered + 1e-3, increasing=rising
    ).x
    return np.asarray(level)
