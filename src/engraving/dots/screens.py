"""Halftone screens: marks on a turned lattice that grow with the tone.

Every point of a screen's cell has a rank, the share of the cell that is
burned before it; a dot burns where its tone asks for more than the rank at
its centre. Ranks are the order of a spot function over the cell, so the
burned share follows the tone exactly whatever the mark's shape (Holladay
1980, Proc. SID 21(2):185-192, on turned lattices; Ulichney 1987, Digital
Halftoning, ch. 5, on clustered dots; both from memory).

The lattice is walked by phases of 32 bits that add up along a row, so any
angle costs the same.
"""

from collections.abc import Callable, Mapping
from functools import lru_cache
from math import cos, pi, radians, sin
from types import MappingProxyType

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots.packing import pack
from engraving.jobspec import DotsPart
from engraving.strips import in_strips

Values = NDArray[np.float64]
Cell = tuple[float, float]

_SIDE = 256
_LINE = 4096
_WAVE = 1024
_TURN = 2.0**32

SPOTS: Mapping[str, tuple[Callable[[Values, Values], Values], float]] = MappingProxyType(
    {
        "round": (np.hypot, pi / 4),
        "diamond": (lambda u, v: np.abs(u) + np.abs(v), 0.5),
        "square": (lambda u, v: np.maximum(np.abs(u), np.abs(v)), 1.0),
        "ellipse": (lambda u, v: np.hypot(u, v / 0.65), pi / 4 * 0.65),
    }
)
"""Distance from a mark's middle by shape, and a mark's area over its width squared."""

WAVES: Mapping[str, Callable[[Values], Values]] = MappingProxyType(
    {
        "line": np.zeros_like,
        "wavy": lambda turns: np.sin(2 * pi * turns),
        "chevron": lambda turns: 1 - 4 * np.abs((turns + 0.25) % 1 - 0.5),
    }
)
"""How far a line swings aside along its way, -1..1, one wavelength a turn."""


def cell_width_mm(settings: DotsPart) -> float:
    """Return the distance from line to line, or from mark to mark."""
    return 10.0 / settings.ruling_cm


def tones(shape: str, settings: DotsPart, cell_mm: Cell) -> int:
    """Return how many tones a screen can show: dots in a cell, and none of them.

    (dpi/ruling)² + 1 for marks on a square grid; of lines, whose width is
    what grows, rows in a line's distance + 1.
    """
    wide = cell_width_mm(settings)
    if shape in WAVES:
        return int(wide / max(cell_mm) + 1e-9) + 1
    return int(wide * wide / (cell_mm[0] * cell_mm[1]) + 1e-9) + 1


def coverage_table(shape: str, settings: DotsPart) -> Values:
    """Return the share that each level 0…255 burns once marks have their bounds.

    What asks for less than half of the smallest mark gets none, the rest at
    least that; what asks for more than the largest gets that.
    """
    share = 1 - np.arange(256) / 255
    least = _share_of(shape, settings.least_mark_mm, settings)
    most = _share_of(shape, settings.most_mark_mm, settings) or 1.0
    share = np.where(share < least / 2, 0, np.maximum(share, least))
    share = np.minimum(share, most)
    share[255] = 0
    return np.asarray(share, np.float64)


def _share_of(shape: str, width_mm: float, settings: DotsPart) -> float:
    """Return the share of a cell that a mark of some width covers."""
    width = width_mm / cell_width_mm(settings)
    area = SPOTS[shape][1] * width * width if shape in SPOTS else width
    return min(area, 1.0)


def screened(
    shape: str, levels: NDArray[np.uint8], settings: DotsPart, cell_mm: Cell
) -> NDArray[np.uint8]:
    """Return packed dots of a screen.

    Parameters
    ----------
    shape : str
        One of `SPOTS` or `WAVES`.
    levels : ndarray of uint8, shape (rows, cols)
        0 is burned solid, 255 left untouched.
    settings : DotsPart
        Ruling, angle, bounds of the marks; of lines also every, wavelength
        and swing.
    cell_mm : tuple of float
        Length of a dot and distance of the rows.

    Returns
    -------
    ndarray of uint8, shape (rows, ceil(cols / 8))
    """
    rows, cols = levels.shape
    if settings.least_mark_mm or settings.most_mark_mm:
        bounded = np.rint(255 * (1 - coverage_table(shape, settings))).astype(np.uint8)
        levels = np.asarray(cv2.LUT(levels, bounded), np.uint8)
    packed = np.zeros((rows, -(-cols // 8)), np.uint8)
    if shape in SPOTS:
        along = _phases(settings, cell_mm, cell_width_mm(settings), cell_width_mm(settings))
        tile = _cell_tile(shape)
        in_strips(rows, lambda a, b: _dots(levels, tile, along, packed, a, b))
    else:
        period = cell_width_mm(settings) * settings.every
        along = _phases(settings, cell_mm, settings.wavelength_mm, period)
        wave, line = _swings(shape, settings.swing_mm / period), _line_tile(settings.every)
        in_strips(rows, lambda a, b: _lines(levels, line, wave, along, packed, a, b))
    return packed


def _phases(settings: DotsPart, cell_mm: Cell, along_mm: float, across_mm: float) -> Values:
    """Return phases of a dot's two steps and of the first dot, in turns, shape (3, 2).

    First along the lines, then across them; rows count away from the top.
    """
    angle = radians(settings.angle_deg)
    x, y = cell_mm
    right = np.array([x * cos(angle) / along_mm, x * sin(angle) / across_mm])
    down = np.array([-y * sin(angle) / along_mm, y * cos(angle) / across_mm])
    return np.stack([right, down, (right + down) / 2])


@lru_cache(maxsize=8)
def _cell_tile(shape: str) -> NDArray[np.uint8]:
    """Return the level below which each point of a cell burns, shape (65536,)."""
    middle = (np.arange(_SIDE) + 0.5) / _SIDE - 0.5
    distance = SPOTS[shape][0](middle[:, None], middle[None, :]).ravel()
    rank = np.zeros(distance.size)
    rank[np.argsort(distance, kind="stable")] = (np.arange(distance.size) + 0.5) / (
        distance.size
    )
    return np.ceil(255 * (1 - rank)).astype(np.uint8)


@lru_cache(maxsize=8)
def _line_tile(every: int) -> NDArray[np.uint8]:
    """Return the same across `every` lines, of which the first is burned."""
    turns = (np.arange(_LINE) + 0.5) / _LINE * every
    rank = 2 * np.abs(turns - 0.5)
    return np.where(turns < 1, np.ceil(255 * (1 - rank)), 0).astype(np.uint8)


def _swings(shape: str, turns: float) -> NDArray[np.uint32]:
    """Return how far a line swings at each of 1024 places of its wave, as phases."""
    swing = WAVES[shape]((np.arange(_WAVE) + 0.5) / _WAVE) * turns
    return ((swing % 1) * _TURN).astype(np.uint64).astype(np.uint32)


@njit(cache=True, nogil=True)
def _phase(turns):  # type: ignore[no-untyped-def]
    return np.uint32(np.uint64((turns - np.floor(turns)) * _TURN))


@njit(cache=True, nogil=True)
def _dots(levels, tile, along, packed, begin, end):  # type: ignore[no-untyped-def]
    cols, burn = levels.shape[1], np.zeros(8 * packed.shape[1], np.uint8)
    step_u, step_v = _phase(along[0, 0]), _phase(along[0, 1])
    for y in range(begin, end):
        u = _phase(along[2, 0] + y * along[1, 0])
        v = _phase(along[2, 1] + y * along[1, 1])
        row = levels[y]
        for x in range(cols):
            place = ((u >> np.uint32(24)) << np.uint32(8)) | (v >> np.uint32(24))
            burn[x] = row[x] < tile[place]
            u = np.uint32(u + step_u)
            v = np.uint32(v + step_v)
        pack(burn, packed[y])


@njit(cache=True, nogil=True)
def _lines(levels, tile, wave, along, packed, begin, end):  # type: ignore[no-untyped-def]
    cols, burn = levels.shape[1], np.zeros(8 * packed.shape[1], np.uint8)
    step_u, step_v = _phase(along[0, 0]), _phase(along[0, 1])
    for y in range(begin, end):
        u = _phase(along[2, 0] + y * along[1, 0])
        v = _phase(along[2, 1] + y * along[1, 1])
        row = levels[y]
        for x in range(cols):
            aside = np.uint32(v + wave[u >> np.uint32(22)])
            burn[x] = row[x] < tile[aside >> np.uint32(20)]
            u = np.uint32(u + step_u)
            v = np.uint32(v + step_v)
        pack(burn, packed[y])
