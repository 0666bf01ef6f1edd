"""Focus and spot from the lines of a focus card."""

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import scipy
from numpy.typing import NDArray

from engraving.cards.layout import Cell, lay_out
from engraving.cards.photo import Flat
from engraving.errors import ArtworkError
from engraving.jobspec import JobSpec
from engraving.recipe import widening

Values = NDArray[np.float64]

_REACH_MM = 0.8
_STEP_MM = 0.02
_LEAST_LINES = 8
_FAINT = 0.06
_TRIES = 3


@dataclass(frozen=True)
class FocusFound:
    """What a focus card says.

    Attributes
    ----------
    z_mm : float
        Height at which the line is finest.
    spot_mm : float
        1/e² diameter of the spot there.
    rayleigh_mm : float
        Distance at which it is √2 times as wide.
    widths : tuple of (float, float, float)
        Height, power, and width in mm at half of a full mark.
    """

    z_mm: float
    spot_mm: float
    rayleigh_mm: float
    widths: tuple[tuple[float, float, float], ...]


class _Lines(NamedTuple):
    """Lines that show: their heights, powers, and profiles of shape (lines, places)."""

    z: Values
    power: Values
    marks: Values


def focus_of(spec: JobSpec, flat: Flat) -> FocusFound:
    """Return focus and spot from the profiles of a focus card's lines.

    A Gaussian spot of diameter d at power P deposits ``F₀·exp(−8y²/d²)``
    across a line, F₀ ∝ P/d, and d grows with ``√(1 + (z/zR)²)`` out of focus.
    The mark is taken as ``A·(1 − exp(−ln 2·((F − F₁)/(F½ − F₁))^p))``, blurred
    by the camera as a Gaussian does. Since width goes with ``d·√(ln F₀)``
    whatever the material (Liu 1982, Opt. Lett. 7:196–198), several powers tell
    d without knowing it: focus, d, zR, F₁, F½, p, A and the blur are fitted to
    all lines.

    Raises
    ------
    ArtworkError
        When too few lines show.
    """
    lines = _lines(spec, flat)
    fits = [
        _fit(lines, middle)
        for middle in np.linspace(lines.z.min(), lines.z.max(), _TRIES + 2)[1:-1]
    ]
    best = min(fits, key=lambda fit: fit[0])[1]
    spot, reach = float(np.exp(best[1])), float(np.exp(best[2]))
    widths = _widths(best, lines)
    return FocusFound(float(best[0]), spot, reach, widths)


def _fit(lines: _Lines, middle: float) -> tuple[float, Values]:
    """Return cost and parameters of a fit that begins at a height.

    The parameters: focus; logarithms of d, zR, F½, p, A and the blur; F₁/F½.
    """
    full, half = float(np.quantile(lines.marks, 0.995)), float(np.median(lines.power)) / 2
    start = [middle, *np.log([0.15, 1.5, half, 1.0, full, 0.02]), 0.2]
    low = [lines.z.min() - 1, *np.log([0.005, 0.02, 1e-4, 0.3, full / 2, 0.002]), 0.0]
    high = [lines.z.max() + 1, *np.log([2, 100, 1e4, 6, full * 4, 0.2]), 0.9]
    fit = scipy.optimize.least_squares(
        lambda p: (_profiles(p, lines) - lines.marks).ravel(),
        start, bounds=(low, high), loss="soft_l1", f_scale=0.05 * full,
    )  # fmt: skip
    return float(fit.cost), np.asarray(fit.x)


def _share(p: Values, lines: _Lines) -> Values:
    """Return the mark across each line, 0..1, as it lies on the material."""
    middle, spot, reach, half, steep = p[0], *np.exp(p[1:5])
    wider = widening(lines.z - middle, reach)
    peak = np.log(lines.power / (half * wider))
    across = _places() / (spot * wider)[:, None]
    dose = np.exp(np.clip(peak[:, None] - 8 * across**2, -60, 20))
    over = np.maximum(dose - p[7], 1e-12) / (1 - p[7])
    return np.asarray(1 - np.exp(-np.log(2) * np.minimum(over**steep, 50)))


def _profiles(p: Values, lines: _Lines) -> Values:
    """Return the mark across each line as the photo shows it."""
    seen = scipy.ndimage.gaussian_filter1d(
        _share(p, lines), np.exp(p[6]) / _STEP_MM, axis=1
    )
    return np.asarray(np.exp(p[5]) * seen)


def _widths(p: Values, lines: _Lines) -> tuple[tuple[float, float, float], ...]:
    wide = (_share(p, lines) > 0.5).sum(axis=1) * _STEP_MM
    return tuple(zip(lines.z.tolist(), lines.power.tolist(), wide.tolist(), strict=True))


def _places() -> Values:
    count = round(_REACH_MM / _STEP_MM)
    return np.arange(-count, count + 1, dtype=np.float64) * _STEP_MM


def _lines(spec: JobSpec, flat: Flat) -> _Lines:
    """Return the lines that show."""
    layout = lay_out(spec)
    tilt = spec.card.tilted_mm if spec.card else 0.0
    z, power, marks = [], [], []
    profiles = [_profile(flat, cell) for cell in layout.cells]
    full = max(float(mark.max()) for mark in profiles)
    for cell, mark in zip(layout.cells, profiles, strict=True):
        if mark.max() > max(_FAINT * full, 0.02):
            z.append(
                tilt * (cell.middle[1] / layout.height_mm - 0.5) if tilt else cell.z_mm
            )
            power.append(cell.power)
            marks.append(mark)
    if len(z) < _LEAST_LINES or len(set(z)) < 3 or len(set(power)) < 2:
        raise ArtworkError("Too few lines of this card show; burn it with more power.")
    return _Lines(np.array(z), np.array(power), np.array(marks))


def _profile(flat: Flat, cell: Cell) -> Values:
    """Return the mark across a line about its own middle, averaged along it."""
    x, y = cell.middle
    wide, high = cell.width_mm * 0.8, 2 * _REACH_MM + 0.6
    part = flat.box(x - wide / 2, y - high / 2, wide, high)
    mark = np.abs(1 - part.mean(axis=1).astype(np.float64))
    rim = max(mark.size // 8, 1)
    mark -= np.median(np.r_[mark[:rim], mark[-rim:]])
    at = (np.arange(mark.size) - (mark.size - 1) / 2) / flat.px_mm
    strong = np.maximum(mark - 0.3 * mark.max(), 0)
    middle = float((at * strong).sum() / strong.sum()) if strong.sum() > 0 else 0.0
    return np.asarray(np.interp(_places() + middle, at, mark), np.float64)
