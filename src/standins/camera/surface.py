"""The material under the beam: what it looks like bare, and how it answers.

All of this is what an operator does not know and finds out with swatch
cards. Nothing here is shared with the program that reads them.
"""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

SPARE_MM = 1.0
_FLAT = 4.0
"""J/mm² up to which a mark counts as flat."""


@dataclass(frozen=True)
class Surface:
    """A material, and the beam's spot on it.

    The mark is ``1 − exp(−((D − onset)/scale)^steep)`` of the dose D in J/mm²;
    beyond ``scorch`` times the scale (0: never) it goes over into another
    colour. The spot's 1/e² diameter is ``spot_mm·√(1 + ((z − focus_mm)/rayleigh_mm)²)``.

    Attributes
    ----------
    ground, mark, burnt : tuple of float
        Linear RGB reflectances 0..1.
    grain : float
        Relative unevenness of the bare material.
    power_w : float
        What a stroke of a full-power second carries, in J.
    shade : float
        Share of the light that is lost for each J/mm² beyond `_FLAT`: it digs a well.
    """

    ground: tuple[float, float, float] = (0.65, 0.45, 0.25)
    mark: tuple[float, float, float] = (0.06, 0.03, 0.01)
    burnt: tuple[float, float, float] = (0.01, 0.01, 0.01)
    onset: float = 0.05
    scale: float = 0.5
    steep: float = 1.0
    scorch: float = 0.0
    spot_mm: float = 0.12
    focus_mm: float = 0.0
    rayleigh_mm: float = 1.5
    grain: float = 0.02
    power_w: float = 40.0
    shade: float = 0.0


def hidden_surface(
    ground: tuple[float, float, float],
    mark: tuple[float, float, float],
    power_w: float,
    spot_mm: float,
    seed: int,
) -> Surface:
    """Return a material of given colours whose answer is made up from a seed.

    Its spot lies within a fifth of the one that is said, its focus within
    1 mm of where it is thought to be.
    """
    draw = np.random.default_rng(seed)
    return replace(
        Surface(ground=ground, mark=mark, power_w=power_w),
        onset=draw.uniform(0, 0.25),
        scale=draw.uniform(0.3, 1.2),
        steep=draw.uniform(0.9, 1.5),
        spot_mm=spot_mm * draw.uniform(0.85, 1.2),
        focus_mm=draw.uniform(-1, 1),
        rayleigh_mm=draw.uniform(1, 2),
        grain=draw.uniform(0.005, 0.02),
    )


def marks_of(
    strokes: NDArray[np.float64],
    surface: Surface,
    left: float,
    front: float,
    size: tuple[float, float],
    fine_mm: float,
) -> NDArray[np.float32]:
    """Return linear RGB of a rectangle of the material, as it was burned.

    Parameters
    ----------
    strokes : ndarray, shape (n, 6)
        See `standins.controller.motion`.
    left, front : float
        Its lower left corner in mm.
    size : tuple of float
        Width and height in mm.
    fine_mm : float
        Side of a pixel.

    Returns
    -------
    ndarray of float32, shape (rows, cols, 3)
        Row 0 has the highest y.
    """
    spare = round(SPARE_MM / fine_mm)
    cols, rows = (round(side / fine_mm) + 2 * spare for side in size)
    dose = np.zeros((rows, cols), np.float32)
    for z in np.unique(strokes[:, 5]) if len(strokes) else []:
        part = strokes[strokes[:, 5] == z]
        off = (z - surface.focus_mm) / surface.rayleigh_mm
        spot = surface.spot_mm * np.hypot(1, off)
        at = front - spare * fine_mm
        apron = 3 * spot / fine_mm
        low = max(int((part[:, 1:4:2].min() - at) / fine_mm - apron), 0)
        high = min(int((part[:, 1:4:2].max() - at) / fine_mm + apron) + 2, rows)
        if high - low < 2:
            continue
        one = np.zeros((high - low, cols), np.float32)
        _deposit(part, left - spare * fine_mm, at + low * fine_mm, fine_mm, one)
        # Sharing energy out among pixels spreads it already, by a variance of 1/4.
        sigma = np.sqrt(max((spot / 4 / fine_mm) ** 2 - 0.25, 0.01))
        side = 2 * int(5 * sigma + 0.5) + 1
        spread = cv2.GaussianBlur(one, (side, side), sigma, borderType=cv2.BORDER_REFLECT)
        dose[rows - high : rows - low] += np.asarray(spread, np.float32)
    dose = dose[spare:-spare, spare:-spare] * (surface.power_w / fine_mm**2)
    return _seen(dose, surface)


def _seen(dose: NDArray[np.float32], surface: Surface) -> NDArray[np.float32]:
    out = np.zeros((*dose.shape, 3), np.float32)
    colours = np.array([surface.ground, surface.mark, surface.burnt], np.float32)
    answer = surface.onset, surface.scale, surface.steep, surface.scorch, surface.shade
    _colour(dose, answer, colours, out)
    return out


@njit(cache=True, nogil=True)
def _colour(dose, answer, colours, out) -> None:  # type: ignore[no-untyped-def]
    """Give each pixel the colour of its dose; what lies bare costs nothing."""
    onset, scale, steep, scorch, shade = answer
    for y in range(dose.shape[0]):
        for x in range(dose.shape[1]):
            over = max(dose[y, x] - onset, 0.0) / scale
            share = 1 - np.exp(-(over**steep)) if over > 0 else 0.0
            lit = np.exp(-shade * max(dose[y, x] - _FLAT, 0.0))
            gone = min(max(over / scorch - 1, 0.0), 1.0) if scorch > 0 else 0.0
            for k in range(3):
                seen = colours[0, k] + (colours[1, k] - colours[0, k]) * share
                out[y, x, k] = (seen + (colours[2, k] - seen) * gone) * lit


@njit(cache=True, nogil=True)
def _deposit(strokes, left, front, fine, out) -> None:  # type: ignore[no-untyped-def]
    """Spread each stroke's energy over the pixels it crosses, four points a pixel.

    A point is shared out among three by three pixels by quadratic B-splines,
    whose variance is 1/4 wherever it falls.
    """
    rows, cols = out.shape
    for i in range(strokes.shape[0]):
        x0, y0 = (strokes[i, 0] - left) / fine - 0.5, (strokes[i, 1] - front) / fine - 0.5
        x1, y1 = (strokes[i, 2] - left) / fine - 0.5, (strokes[i, 3] - front) / fine - 0.5
        pieces = max(1, int(np.ceil(4 * np.hypot(x1 - x0, y1 - y0))))
        energy = strokes[i, 4] / pieces
        for k in range(pieces):
            share = (k + 0.5) / pieces
            x, y = x0 + share * (x1 - x0), y0 + share * (y1 - y0)
            col, row = int(np.floor(x + 0.5)), int(np.floor(y + 0.5))
            if col < 1 or row < 1 or col + 1 >= cols or row + 1 >= rows:
                continue
            u, v = x - col, y - row
            for m in range(-1, 2):
                high = 0.75 - v * v if m == 0 else 0.5 * (0.5 + m * v) ** 2
                for n in range(-1, 2):
                    wide = 0.75 - u * u if n == 0 else 0.5 * (0.5 + n * u) ** 2
                    out[rows - 1 - row - m, col + n] += np.float32(energy * high * wide)
