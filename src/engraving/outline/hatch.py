"""Areas filled with parallel lines, to and fro."""

import numpy as np
from numpy.typing import NDArray
from shapely import MultiPolygon, get_coordinates

from engraving.geometry.rotation import rotation

Lines = NDArray[np.float64]
"""Starts and ends, shape (n, 2, 2), mm."""


def hatch_lines(
    areas: MultiPolygon, spacing_mm: float, angle_deg: float, *, cross: bool = False
) -> Lines:
    """Return the lines that fill areas, in the order they are burned.

    Lines lie at whole multiples of their distance from the origin, half a
    distance off it, so neighbouring areas share them. Every other one is
    burned backward.

    Parameters
    ----------
    angle_deg : float
        Direction of the lines, counter-clockwise from x.
    cross : bool
        Fill once more, square to it.
    """
    lines = _one_way(areas, spacing_mm, angle_deg)
    if not cross:
        return lines
    return np.concatenate([lines, _one_way(areas, spacing_mm, angle_deg + 90)])


def _one_way(areas: MultiPolygon, spacing_mm: float, angle_deg: float) -> Lines:
    rings = [ring for part in areas.geoms for ring in (part.exterior, *part.interiors)]
    flat = [get_coordinates(ring) @ rotation(-angle_deg).T for ring in rings]
    if not flat:
        return np.zeros((0, 2, 2))
    row, x = _crossings(flat, spacing_mm)
    # Each row enters and leaves by turns.
    starts, ends, row = x[0::2], x[1::2], row[0::2]
    backward = row % 2 == 1
    order = np.lexsort((np.where(backward, -starts, starts), row))
    y = (row + 0.5) * spacing_mm
    first, last = np.where(backward, ends, starts), np.where(backward, starts, ends)
    lines = np.stack([np.stack([first, y], axis=1), np.stack([last, y], axis=1)], axis=1)
    return np.asarray(lines[order] @ rotation(angle_deg).T)


def _crossings(
    rings: list[NDArray[np.float64]], spacing_mm: float
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Return row and x of every crossing of an edge and a line, in order."""
    a = np.concatenate([ring[:-1] for ring in rings])
    b = np.concatenate([ring[1:] for ring in rings])
    low, high = np.minimum(a[:, 1], b[:, 1]), np.maximum(a[:, 1], b[:, 1])
    first = np.ceil(low / spacing_mm - 0.5).astype(np.int64)
    count = np.ceil(high / spacing_mm - 0.5).astype(np.int64) - first
    edge = np.repeat(np.arange(len(a)), count)
    row = (
        np.repeat(first, count)
        + np.arange(len(edge))
        - np.repeat(np.cumsum(count) - count, count)
    )
    y = (row + 0.5) * spacing_mm
    share = (y - a[edge, 1]) / (b[edge, 1] - a[edge, 1])
    x = a[edge, 0] + share * (b[edge, 0] - a[edge, 0])
    order = np.lexsort((x, row))
    return row[order], x[order]
