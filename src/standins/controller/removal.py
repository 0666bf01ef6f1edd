"""What is gone of a piece: burned away by dose, cut by a cone, scratched by a point.

How readily a material goes, how it is grown, and how wide a point scratches are hidden:
whoever wants to know them has to burn, carve or scratch something and measure it.
"""

import math
import zlib
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from standins.controller.burnmap import turned_back
from standins.controller.machine import Machine

Depths = NDArray[np.float32]

_LARGEST_MAP = 64_000_000
_LEAST_MM_A_J, _MOST_MM_A_J = 0.03, 0.12
_RINGS = 0.35


def depth_map(machine: Machine, wanted: dict[str, Any]) -> Depths:
    """Return how deep each cell lies below the surface, in mm; row 0 has the highest y.

    ``left``, ``front``, ``cell``, ``rows``, ``cols`` and ``turn`` as for a map of energy.
    Of a beam ``power_w`` and ``material``, and ``even`` where it has no soft and hard
    rings; of a cutter its ``angle_deg`` and ``tip_mm``, as somebody fitted it, and in
    ``tools`` by name those of what it was changed for; of a point ``material`` decides how
    wide it scratches.
    """
    rows, cols = int(wanted["rows"]), int(wanted["cols"])
    if not 0 < rows * cols <= _LARGEST_MAP:
        raise ValueError
    wide, high = (float(side) for side in wanted["cell"])
    left, front = float(wanted["left"]), float(wanted["front"])
    turn = tuple(float(one) for one in wanted.get("turn", (0, 0, 0)))
    out = np.zeros((rows, cols), np.float32)
    if machine.settings.tool == "beam":
        energy = machine.map(left, front, (wide, high), (rows, cols), turn)  # type: ignore[arg-type]
        joules = energy * float(wanted["power_w"]) / (wide * high)
        return np.asarray(joules * _gone(wanted, out.shape, high), np.float32)
    cuts = turned_back(machine.cuts(), *turn, ends=(0, 3))
    for number, shape in enumerate(_shapes(machine, wanted)):
        own = cuts[cuts[:, 6] == number]
        _carve(own, left, front, wide, high, shape, machine.settings.surface, out)
    return out


def _shapes(machine: Machine, wanted: dict[str, Any]) -> list[tuple[float, float, float]]:
    """Return radius of the tip, greatest radius and slope of each tool that was held."""
    if machine.settings.tool == "point":
        half = scratch_mm(str(wanted["material"])) / 2
        return [(half, half, 0.0)]
    first = wanted["angle_deg"], wanted["tip_mm"]
    known = wanted.get("tools", {})
    fitted = [first, *(known.get(name, first) for name in machine.tools[1:])]
    return [(float(tip) / 2, 50.0, _tangent(float(angle))) for angle, tip in fitted]


def _gone(wanted: dict[str, Any], shape: tuple[int, int], high: float) -> Any:
    """Return the mm that a J/mm² takes, by cell where the material is uneven."""
    name = str(wanted["material"])
    plain, share = taken_mm_a_j(name), _share(name)
    if wanted.get("even", True):
        return plain
    y = np.arange(shape[0])[:, None] * high
    return plain * (1 + _RINGS * np.sin(2 * math.pi * y / (2.5 + 2 * share)))


def taken_mm_a_j(material: str) -> float:
    """Return the mm that a J/mm² takes of a material."""
    return _LEAST_MM_A_J + (_MOST_MM_A_J - _LEAST_MM_A_J) * _share(material)


def _share(material: str) -> float:
    return zlib.crc32(material.encode()) % 1000 / 999


def scratch_mm(material: str) -> float:
    """Return how wide a point scratches a material."""
    return 0.1 + 0.1 * _share(material)


def _tangent(angle_deg: float) -> float:
    return math.tan(math.radians(angle_deg / 2))


@njit(cache=True, nogil=True)
def _carve(cuts, left, front, wide, high, shape, surface, out) -> None:  # type: ignore[no-untyped-def]
    """Sink a tool along its ways: `shape` is its tip's radius, its own, and its slope.

    `surface` is the height of the blank's, and how it rises along x and y.
    """
    tip, radius, slope = shape
    level, along_x, along_y = surface
    rows, cols = out.shape
    fine = min(wide, high) / 2
    for i in range(cuts.shape[0]):
        x0, y0, z0, x1, y1, z1, _ = cuts[i]
        pieces = int(np.hypot(x1 - x0, y1 - y0) / fine) + 1
        for k in range(pieces + 1):
            share = k / pieces
            x, y = x0 + share * (x1 - x0), y0 + share * (y1 - y0)
            z = z0 + share * (z1 - z0)
            deep = level + along_x * x + along_y * y - z
            if deep <= 0:
                continue
            reach = min(tip + deep * slope, radius)
            first_row = int(np.floor((y - reach - front) / high))
            last_row = int(np.floor((y + reach - front) / high))
            first_col = int(np.floor((x - reach - left) / wide))
            last_col = int(np.floor((x + reach - left) / wide))
            for up in range(max(first_row, 0), min(last_row, rows - 1) + 1):
                dy = front + (up + 0.5) * high - y
                for col in range(max(first_col, 0), min(last_col, cols - 1) + 1):
                    away = np.hypot(left + (col + 0.5) * wide - x, dy)
                    if away > reach:
                        continue
                    own = deep
                    if slope > 0:
                        own = min(deep, deep - (away - tip) / slope)
                    if own > out[rows - 1 - up, col]:
                        out[rows - 1 - up, col] = np.float32(own)
