"""Tone reproduction: the share of dots that comes out at the wanted lightness.

A burned patch is lighter or darker than its share of dots, since a spot is
round, wider than its dot, and its marks add up (dot gain). The gain is not
taken from a formula but found by burning patches: the method's own dots, the
machine's own spot, the substrate's own answer. Its inverse is the correction,
so it holds for any method. (Murray 1936, J. Franklin Inst. 221:721-744,
defines the effective share; `effective_share` is his formula with the factor
of Yule & Nielsen 1951, TAGA Proc. 3:65-76, to compare with measured patches.)

What is wanted runs evenly in CIE lightness from the lightest to the darkest
that substrate and dots can show.
"""

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from engraving.colour.light import to_linear
from engraving.colour.lightness import lightness
from engraving.dots import BitGrid, make_dots
from engraving.dots.screens import cell_width_mm
from engraving.jobspec import DotsPart
from engraving.proof.colours import Palette
from engraving.proof.spot import SpotModel
from engraving.proof.view import framed_dots

Values = NDArray[np.float64]
Levels = NDArray[np.uint8]

_PATCHES = 33
_LEAST_SIDE = 96
_MOST_SIDE = 512
_EDGE = 12
_PRINT_INK, _PRINT_PAPER = 0.03, 0.85


@dataclass(frozen=True)
class Process:
    """All that decides how light a patch of dots comes out.

    Attributes
    ----------
    dots : DotsPart
        How tone becomes dots.
    cell_mm : tuple of float
        Length of a dot and distance of the rows.
    spot : SpotModel
        Spot and answer.
    palette : Palette
        Colours of the burned piece.
    burns_dark : bool
        Whether dark tones are the ones that are burned.
    prints : bool
        The piece is a printing plate: what is burned stays white.
    """

    dots: DotsPart
    cell_mm: tuple[float, float]
    spot: SpotModel
    palette: Palette
    burns_dark: bool
    prints: bool = False


def effective_share(density: float, solid: float, bare: float, n: float = 1.0) -> float:
    """Return the effective share of a patch from densities, 0..1.

    Murray–Davies; with ``n`` above 1, Yule–Nielsen.
    """
    patch = 1 - 10.0 ** -((density - bare) / n)
    return float(patch / (1 - 10.0 ** -((solid - bare) / n)))


def wanted_lightness(darkest: float, lightest: float) -> Values:
    """Return the L* wanted for each code 0…255, ends included."""
    reach = lightness(to_linear(np.arange(256) / 255)) / 100
    return darkest + (lightest - darkest) * reach


def burned_lightness(process: Process, shares: Values) -> Values:
    """Return the L* that patches of the given shares of dots come out at.

    Parameters
    ----------
    process : Process
    shares : ndarray of float64, shape (n,)
        Shares asked of the dot method, 0..1.
    """
    side = _side(process)
    light = [_luminance(process, share, side) for share in shares.tolist()]
    return lightness(np.array(light))


def _side(process: Process) -> int:
    """Return how many dots wide a patch must be to hold some cells of a screen."""
    across = 4 * cell_width_mm(process.dots) * process.dots.every / min(process.cell_mm)
    return int(np.clip(across, _LEAST_SIDE, _MOST_SIDE)) + 2 * _EDGE


def _luminance(process: Process, share: float, side: int) -> float:
    level = round(255 * (1 - share))
    flat = np.full((side, side), level, np.uint8)
    dots = make_dots(flat, process.dots, process.cell_mm)
    marks = process.spot.marks(_framed(dots, process.spot))[_EDGE:-_EDGE, _EDGE:-_EDGE]
    if process.prints:
        unburned = 1 - float(marks.mean()) / 65535 * process.spot.answer.top
        ink = max(unburned, 0.0)
        return _PRINT_PAPER + (_PRINT_INK - _PRINT_PAPER) * ink
    return float(process.palette.light[marks >> 4].mean())


def _framed(dots: BitGrid, spot: SpotModel) -> NDArray[np.uint8] | NDArray[np.float32]:
    return framed_dots(dots, (0, 0, dots.cols, dots.rows), spot.frame)


def linear_table(*, burns_dark: bool) -> Levels:
    """Return the level to burn for each wanted code, as if dots were exact squares."""
    light = to_linear(np.arange(256) / 255)
    return _levels(1 - light if burns_dark else light)


def measured_table(patches: tuple[tuple[float, float], ...], *, burns_dark: bool) -> Levels:
    """Return the level to burn for each wanted code, from patches measured on a piece.

    A monotone cubic through the patches (Fritsch & Carlson 1980), ends held.

    Parameters
    ----------
    patches : tuple of (float, float)
        Burned share in % and lightness L*, by rising share.
    """
    share, light = (np.array(axis) for axis in zip(*patches, strict=True))
    curve = scipy.interpolate.PchipInterpolator(share / 100, light)
    fine = np.linspace(share[0] / 100, share[-1] / 100, 257)
    found = np.asarray(curve(fine), np.float64)
    return _levels(_inverse(fine, found, burns_dark=burns_dark))


def burned_table(process: Process) -> Levels:
    """Return the level to burn for each wanted code, from patches burned here.

    Returns
    -------
    ndarray of uint8, shape (256,)
        0 is burned solid, 255 left.
    """
    shares = _ramp_shares()
    found = burned_lightness(process, shares)
    return _levels(_inverse(shares, found, burns_dark=process.burns_dark))


def _ramp_shares() -> Values:
    """Return shares in whole levels, denser at the ends, where dots begin and close up."""
    turn = np.linspace(0, np.pi, _PATCHES)
    return np.rint(255 * (1 - np.cos(turn)) / 2) / 255


def _inverse(shares: Values, found: Values, *, burns_dark: bool) -> Values:
    """Return the share to ask for at each code, from a ramp that was burned."""
    rising = found[-1] >= found[0]
    ordered = np.maximum.accumulate(found if rising else -found)
    # A stretch where nothing changes has no inverse; its start will do.
    kept = np.concatenate([[True], np.diff(ordered) > 1e-6])
    along, share = ordered[kept], shares[kept]
    if along.size == 1:
        return np.zeros(256)
    first, last = (along[0], along[-1]) if rising else (-along[0], -along[-1])
    darkest, lightest = (last, first) if burns_dark else (first, last)
    wanted = wanted_lightness(darkest, lightest)
    return np.interp(wanted if rising else -wanted, along, share)


def _levels(share: Values) -> Levels:
    return np.rint(255 * (1 - np.clip(share, 0, 1))).astype(np.uint8)
