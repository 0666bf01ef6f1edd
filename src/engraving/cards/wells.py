"""What measured wells say: how deep a pass takes away, at each power."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import groupby
from operator import itemgetter

import numpy as np

from engraving.colour.lightness import luminance
from engraving.errors import ArtworkError

_SHOWS, _LEAST_WELLS, _MOST_BESIDE = 4.0, 3, 0.15
"""L* that wells differ by at least; how many are measured; how far the rest may lie off."""


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


def wells_by_light(
    measured: Mapping[tuple[int, int], float], seen: Mapping[tuple[int, int], float]
) -> dict[tuple[int, int], float]:
    """Return the depths of wells that were not measured, by how dark a photo shows them.

    A deep well lies in its own shade. How much is the light's and the material's, so the
    measured wells of the same photo tell it: depth is fitted linearly to the logarithm of
    luminance (light lost by the same share for each mm), and read off between the
    shallowest and the deepest of them only.

    Parameters
    ----------
    measured : mapping
        Depths in mm by column and row.
    seen : mapping
        Lightness L* of every well in the photo.

    Raises
    ------
    ArtworkError
        When fewer than three were measured, or the photo does not show their depths.
    """
    known = [(seen[at], mm) for at, mm in measured.items() if at in seen]
    if len(known) < _LEAST_WELLS:
        raise ArtworkError("Measure three wells, then the photo can tell the others.")
    lightness, mm = np.array(known).T
    if np.ptp(lightness) < _SHOWS or np.ptp(mm) <= 0:
        raise ArtworkError("The photo does not show the depths: the wells look alike.")
    slope, start = np.polyfit(np.log(luminance(lightness)), mm, 1)
    off = np.abs(start + slope * np.log(luminance(lightness)) - mm).max()
    if slope >= 0 or off > _MOST_BESIDE * np.ptp(mm):
        raise ArtworkError(
            "The photo does not show the depths: darker wells are not deeper ones."
        )
    found = {
        at: float(start + slope * np.log(luminance(np.array(light))))
        for at, light in seen.items()
        if at not in measured
    }
    return {
        at: mm
        for at, mm in found.items()
        if min(measured.values()) <= mm <= max(measured.values())
    }
