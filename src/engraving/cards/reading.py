"""What a card says: from its flattened picture to settings, curves and tables."""

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from engraving.cards.layout import Cell, Layout, lay_out
from engraving.cards.patches import bars
from engraving.cards.photo import Flat
from engraving.colour.hexadecimal import linear_of
from engraving.colour.lightness import WEIGHTS, lightness
from engraving.errors import ArtworkError
from engraving.jobspec import JobSpec

Values = NDArray[np.float64]

_INNER = 0.7
_NEARLY = 0.95
_MARKS = 1.5


@dataclass(frozen=True)
class Patch:
    """A measured cell: its mean lightness L*, and its spread."""

    cell: Cell
    lightness: float
    spread: float


@dataclass(frozen=True)
class Measured:
    """All patches of a card, and the lightness of what was left bare."""

    patches: tuple[Patch, ...]
    bare: float

    def at(self, column: int, row: int) -> Patch:
        """Return the patch of a cell."""
        return next(
            one for one in self.patches if (one.cell.column, one.cell.row) == (column, row)
        )


def ground_luminance(spec: JobSpec) -> float:
    """Return the luminance 0..1 of the bare substrate, by its colour."""
    return float(linear_of(spec.substrate.ground) @ WEIGHTS)


def measure(spec: JobSpec, flat: Flat) -> Measured:
    """Return the lightness of every cell of a card, its rim left off."""
    ground = ground_luminance(spec)
    patches = []
    for cell in lay_out(spec).cells:
        x, y = cell.middle
        wide, high = cell.width_mm * _INNER, cell.height_mm * _INNER
        light = flat.box(x - wide / 2, y - high / 2, wide, high).astype(np.float64) * ground
        mean = float(lightness(np.array(np.clip(light.mean(), 0, 1))))
        spread = float(lightness(np.clip(_coarse(light, flat.px_mm), 0, 1)).std())
        patches.append(Patch(cell, mean, spread))
    return Measured(tuple(patches), float(lightness(np.array(ground))))


def _coarse(light: Values, px_mm: float) -> Values:
    """Return means of about 1 mm, so that spread tells of blotches and not of dots."""
    side = max(int(px_mm), 1)
    rows, cols = (n // side * side for n in light.shape)
    if not rows or not cols:
        return light
    whole = light[:rows, :cols].reshape(rows // side, side, cols // side, side)
    return np.asarray(whole.mean(axis=(1, 3)))


def best_cell(measured: Measured) -> Patch:
    """Return the quickest, weakest cell that marks nearly as strongly as any.

    Of the cells whose distance to the bare substrate is at least 95 % of the
    largest, the one of the least dose; of equal ones the fastest. More dose
    than that only takes longer, and scorches.

    Raises
    ------
    ArtworkError
        When no cell differs from the bare substrate.
    """
    away = [abs(one.lightness - measured.bare) for one in measured.patches]
    most = max(away)
    if most < _MARKS:
        raise ArtworkError("No cell of this card differs from the bare substrate.")
    strong = [
        one
        for one, far in zip(measured.patches, away, strict=True)
        if far >= _NEARLY * most
    ]
    return min(strong, key=lambda one: (round(_dose(one.cell), 6), -one.cell.speed_mm_s))


def _dose(cell: Cell) -> float:
    """Return what dose is proportional to."""
    return cell.power / (cell.speed_mm_s * cell.pitch_mm)


def tone_curve(measured: Measured) -> tuple[tuple[float, float], ...]:
    """Return burned share in % and lightness L*, running one way.

    Repeats are averaged; what noise turned round is levelled (isotonic
    regression, Barlow and others 1972, by pooling adjacent violators).
    """
    shares = sorted({round(100 * one.cell.share, 4) for one in measured.patches})
    if len(shares) < 3:
        raise ArtworkError("A tone curve needs three burned shares or more.")
    mean = np.array([
        np.mean([one.lightness for one in measured.patches
                 if round(100 * one.cell.share, 4) == share])
        for share in shares
    ])  # fmt: skip
    rising = bool(mean[-1] >= mean[0])
    if abs(mean[-1] - mean[0]) < _MARKS:
        raise ArtworkError("The ramp's ends hardly differ; nothing was marked.")
    level = scipy.optimize.isotonic_regression(mean, increasing=rising).x
    return tuple(
        (share, round(float(np.clip(light, 0, 100)), 3))
        for share, light in zip(shares, level, strict=True)
    )


def row_shifts(spec: JobSpec, flat: Flat) -> tuple[tuple[float, float], ...]:
    """Return by speed how far return rows must be moved, mm, from a shift card.

    In each cell the bars' centres of the half burned forward are held against
    those of the half burned backward, which was moved by the shift tried.
    """
    layout = lay_out(spec)
    found: dict[float, list[float]] = {}
    for cell in layout.cells:
        forward, back = (_bar_centres(flat, cell, upper=upper) for upper in (True, False))
        if forward is None or back is None:
            continue
        off = float(np.mean(forward - back))
        found.setdefault(cell.speed_mm_s, []).append(off + cell.shift_mm)
    if not found:
        raise ArtworkError("No bars can be made out on this card; burn it stronger.")
    return tuple(
        (speed, round(float(np.median(shifts)), 4))
        for speed, shifts in sorted(found.items())
    )


def _bar_centres(flat: Flat, cell: Cell, *, upper: bool) -> Values | None:
    """Return the centres of a half cell's bars in mm, None where they do not show."""
    high = cell.height_mm * 0.32
    y = cell.y_mm + cell.height_mm * (0.6 if upper else 0.08)
    apart = bars(cell)[1][0] - bars(cell)[0][0]
    x0 = cell.x_mm - apart / 2
    part = flat.box(x0, y, cell.width_mm + apart, high)
    profile = part.mean(axis=0).astype(np.float64)
    mark = np.abs(1 - profile)
    if mark.max() < 0.02:
        return None
    at = round(x0 * flat.px_mm) + np.arange(mark.size) + 0.5
    centres = []
    for left, width in bars(cell):
        near = np.abs(at / flat.px_mm - (left + width / 2)) < apart / 2
        weight = np.maximum(mark[near] - 0.1 * mark.max(), 0)
        if weight.sum() <= 0:
            return None
        centres.append(float((at[near] * weight).sum() / weight.sum()) / flat.px_mm)
    return np.array(centres)


def chosen_settings(spec: JobSpec, column: int, row: int) -> Cell:
    """Return the cell that was picked.

    Raises
    ------
    ArtworkError
        When the card has no such cell.
    """
    layout: Layout = lay_out(spec)
    if not (0 <= column < layout.columns and 0 <= row < layout.rows):
        raise ArtworkError("The card has no such cell.")
    return layout.cell(column, row)
