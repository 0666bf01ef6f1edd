"""Areas in the plane: their rings, rounded corners, and how SVG writes them.

Buffers and areas by GEOS (shapely).
"""

from collections.abc import Iterable

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon

QUARTER_SEGMENTS = 24
"""Straight pieces of a quarter of a circle: 0.05 % of its radius from it at most."""
HAIR_MM = 1e-6
"""By less no edge is moved or rounded: GEOS may give nothing at all."""


def polygons(shape: shapely.Geometry) -> MultiPolygon:
    """Return the areas of a geometry; points and lines are left out."""
    parts = shapely.get_parts(shape) if not isinstance(shape, Polygon) else [shape]
    return MultiPolygon(
        [one for one in parts if isinstance(one, Polygon) and not one.is_empty]
    )


def rounded(shape: Polygon, corner_mm: float) -> Polygon:
    """Return an upright rectangle with round corners, as round as there is room for."""
    left, low, right, high = shape.bounds
    corner = min(corner_mm, (right - left) / 2, (high - low) / 2)
    if corner < HAIR_MM:
        return shape
    # Point by point: a buffer in and out again loses a shape it shrinks to a line.
    arc = np.linspace(0, np.pi / 2, QUARTER_SEGMENTS + 1)
    turn = np.concatenate([arc + quarter * np.pi / 2 for quarter in range(4)])
    to_right = np.repeat([True, False, False, True], len(arc))
    to_top = np.repeat([True, True, False, False], len(arc))
    x = np.where(to_right, right - corner, left + corner) + corner * np.cos(turn)
    y = np.where(to_top, high - corner, low + corner) + corner * np.sin(turn)
    return Polygon(np.stack([x, y], axis=1))


def ellipse(width_mm: float, height_mm: float) -> Polygon:
    """Return an upright ellipse about the origin, by points on its edge."""
    turn = np.linspace(0, 2 * np.pi, 8 * QUARTER_SEGMENTS, endpoint=False)
    edge = np.stack([width_mm / 2 * np.cos(turn), height_mm / 2 * np.sin(turn)], axis=1)
    return Polygon(edge)


def rings(areas: Iterable[Polygon]) -> list[NDArray[np.float64]]:
    """Return the edges of areas and of their holes, shape (n, 2), first point last."""
    edges = [ring for part in areas for ring in (part.exterior, *part.interiors)]
    return [np.asarray(ring.coords) for ring in edges]


def area_path(area: shapely.Geometry, *, deep_mm: float = 0.0) -> str:
    """Return SVG path data of the edges of an area; see `path_data`."""
    return path_data(rings(polygons(area).geoms), deep_mm=deep_mm, closed=True)


def path_data(
    lines: Iterable[Iterable[Iterable[float]]],
    *,
    deep_mm: float = 0.0,
    closed: bool = False,
) -> str:
    """Return SVG path data (SVG 2, W3C) of lines in mm, to a thousandth.

    Parameters
    ----------
    lines : iterable of arrays, shape (n, 2)
        y away from the operator; SVG counts it down from `deep_mm`.
    closed : bool
        Whether each line ends where it begins.
    """
    end = "Z" if closed else ""
    return "".join(
        "M" + "L".join(f"{x:.3f} {deep_mm - y:.3f}" for x, y in line) + end
        for line in lines
    )
