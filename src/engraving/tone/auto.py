"""Tone settings computed from a picture and the substrate it will be burned on.

Not a fixed curve: black and white point come from the picture's own ends, the
middle from where its tones lie and how far the substrate can follow, local
contrast from how flat its neighbourhoods are, sharpening from its own edges
and from what the spot will soften. Aims and limits are common practice.
"""

import math
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.geometry.shrinking import shrunk
from engraving.jobspec import TonePart
from engraving.tone.histogram import code_counts

Codes = NDArray[np.uint8]

_CUT = 0.004
_LEAST_RANGE = 60.0
"""Of a narrower range ever less is made up for (common practice)."""
_LOOKED_AT = 512
_ROOM = 26.0
_GRAIN = 5.0
_DETAIL = 6.0


@dataclass(frozen=True)
class AutoGround:
    """What the picture will be burned on.

    Attributes
    ----------
    darkest, lightest : float
        L* of the two ends that substrate and dots can show.
    burns_dark : bool
        Whether dark tones are the ones that are burned.
    spot_dots : float
        Spot diameter in rows.
    cell_mm : tuple of float
        Length of a dot and distance of the rows.
    source_per_dot : float
        Pixels of the file for each dot.
    """

    darkest: float
    lightest: float
    burns_dark: bool
    spot_dots: float
    cell_mm: tuple[float, float]
    source_per_dot: float


@dataclass(frozen=True)
class AutoTone:
    """Computed settings, and why, in one line."""

    values: dict[str, Any]
    said: str


@dataclass(frozen=True)
class PictureLook:
    """What was measured of a picture.

    Attributes
    ----------
    black, white : float
        Codes below and above which almost nothing lies.
    middle : float
        Median between the two, 0..1.
    flat : float
        Median contrast of neighbourhoods, in codes once black and white are set.
    soft : float
        How little the finest detail stands out, 0 (crisp) to 1 (blurred).
    grain : float
        Standard deviation of noise in codes (Immerkær 1996, Computer Vision
        and Image Understanding 64:300-302).
    """

    black: float
    white: float
    middle: float
    flat: float
    soft: float
    grain: float


def look_at(codes: NDArray[Any], mask: Codes | None = None) -> PictureLook:
    """Measure a picture on the burn grid, uint8 or uint16 of shape (rows, cols)."""
    if codes.dtype == np.uint16:
        codes = (codes >> 8).astype(np.uint8)
    counts = code_counts(codes, mask)
    run = np.cumsum(counts) / max(counts.sum(), 1)
    black = float(np.searchsorted(run, _CUT))
    white = float(np.searchsorted(run, 1 - _CUT))
    # A picture with next to no range is no dark or pale one: it is left as it is.
    sure = _rise((white - black) / _LEAST_RANGE)
    black, white = sure * black, 255 - sure * (255 - white)
    middle = float(np.searchsorted(run, 0.5))
    small = shrunk(codes, _LOOKED_AT).astype(np.float32)
    detail = small - cv2.GaussianBlur(small, (0, 0), small.shape[0] / 24 + 1)
    local = cv2.GaussianBlur(detail * detail, (0, 0), small.shape[0] / 24 + 1)
    flat = float(np.median(np.sqrt(local))) * 255 / (white - black)
    share = min(max((middle - black) / (white - black), 0.02), 0.98)
    return PictureLook(black, white, share, flat, _softness(codes), _grain(codes))


def _rise(share: float) -> float:
    """Return 0 up to 0, 1 from 1, and smoothly between."""
    t = min(max(share, 0.0), 1.0)
    return t * t * (3 - 2 * t)


def _softness(codes: Codes) -> float:
    """Return 1 less the share of fine contrast in the contrast of five dots."""
    part = _middle(codes).astype(np.float32)
    fine = part - cv2.GaussianBlur(part, (0, 0), 0.8)
    wide = part - cv2.GaussianBlur(part, (0, 0), 3.0)
    whole = float(np.sqrt((wide**2).mean()))
    if not whole:
        return 0.0
    crisp = min(2.2 * float(np.sqrt((fine**2).mean())) / whole, 1.0)
    return (1 - crisp) * whole / (whole + 1)  # where there is no detail, nothing is soft


def _grain(codes: Codes) -> float:
    part = _middle(codes).astype(np.float32)
    if min(part.shape) < 3:
        return 0.0
    kernel = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
    found = np.abs(cv2.filter2D(part, cv2.CV_32F, kernel)[1:-1, 1:-1])
    # The median, so that edges do not count as noise; 0.6745 of a normal's sigma.
    return float(np.median(found)) / 0.6745 / 6


def _middle(codes: Codes) -> Codes:
    """Return the middle of a picture, at most 1200 dots wide and high."""
    rows, cols = codes.shape
    top, left = max((rows - 1200) // 2, 0), max((cols - 1200) // 2, 0)
    return np.ascontiguousarray(codes[top : top + 1200, left : left + 1200])


def auto_tone(look: PictureLook, ground: AutoGround) -> AutoTone:
    """Return settings for a picture on a ground.

    Returns
    -------
    AutoTone
        ``values`` are those of `TonePart` that are set; everything else is to
        be as untouched.
    """
    gamma = _gamma(look, ground)
    local, size_mm = _local(look, ground)
    amount, radius = _sharpening(look, ground)
    values: dict[str, Any] = {
        "input_black": look.black,
        "input_white": look.white,
        "gamma": gamma,
        "local_amount": local,
        "local_mm": size_mm,
        "local_limit": 2.5,
        "sharpen_amount": amount,
        "sharpen_dots": radius,
        "sharpen_threshold": round(min(look.grain, 12.0)),
        "denoise": round(min(max(look.grain - _GRAIN, 0) * 8, 60.0)),
    }
    return AutoTone(values, _said(look, ground, values))


def _room(ground: AutoGround) -> float:
    """Return how much lightness the substrate has to spend, 0..1."""
    return min((ground.lightest - ground.darkest) / 80, 1.0)


def _gamma(look: PictureLook, ground: AutoGround) -> float:
    """Lead a low median half of its way, and more where dots are short of room.

    On a substrate that is burned dark, tones aim a little above the middle:
    smoke and heat darken what lies between the dots. A high median is led
    less: light grounds are meant to stay light.
    """
    aim = 0.54 if ground.burns_dark else 0.47
    away = math.log(look.middle) / math.log(aim)
    strength = 0.55 + 0.3 * (1 - _room(ground)) if away > 1 else 0.25
    return round(min(max(away**strength, 0.7), 2.4), 2)


def _local(look: PictureLook, ground: AutoGround) -> tuple[float, float]:
    """Spread neighbourhoods that are flatter than the substrate's steps can show.

    Where there is no detail at all, as in a smooth ramp, there is none to spread.
    """
    wanted = _ROOM + 14 * (1 - _room(ground))
    there = _rise(look.flat / _DETAIL)
    amount = min(max((wanted - look.flat) / wanted, 0), 0.7) * there * 100
    cells = 140 * min(ground.cell_mm)
    return float(round(amount)), round(min(max(cells, 4.0), 40.0), 1)


def _sharpening(look: PictureLook, ground: AutoGround) -> tuple[float, float]:
    """Make up for what the spot softens, and for a source with fewer pixels than dots."""
    enlarged = min(max(1 / ground.source_per_dot, 1.0), 4.0)
    radius = max(0.7, 0.55 * ground.spot_dots) * enlarged
    amount = (70 + 70 * look.soft) / (1 + look.grain / 8)
    return float(round(amount)), round(min(radius, 8.0), 1)


def _said(look: PictureLook, ground: AutoGround, values: dict[str, Any]) -> str:
    kind = []
    if look.middle * (look.white - look.black) + look.black < 90:
        kind.append("dark")
    elif look.middle * (look.white - look.black) + look.black > 175:
        kind.append("light")
    if look.white - look.black < 190:
        kind.append("short of range")
    if values["local_amount"] >= 25:
        kind.append("flat")
    if look.grain > _GRAIN:
        kind.append("grainy")
    if ground.source_per_dot < 1:
        kind.append("small")
    why = f"The picture is {', '.join(kind)}: " if kind else "A sound picture: "
    did = [
        f"levels {look.black:.0f} to {look.white:.0f}",
        f"middle γ {values['gamma']:.2f}",
    ]
    if values["local_amount"]:
        did.append(f"local contrast {values['local_amount']:.0f} %")
    if values["denoise"]:
        did.append(f"denoised {values['denoise']:.0f} %")
    did.append(f"sharpened {values['sharpen_amount']:.0f} %")
    reach = f" for {ground.lightest - ground.darkest:.0f} steps of lightness"
    return f"{why}{', '.join(did)},{reach}."


def auto_part(tone: TonePart, auto: AutoTone) -> TonePart:
    """Return the station with computed settings, everything else as untouched."""
    return TonePart(**auto.values, on=tone.on)
