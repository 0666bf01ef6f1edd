"""Areas carved along their middle: the tool touches both edges, deep where they are wide.

The middle is the medial axis (Blum 1967): the points with more than one nearest point of
the edge. It is found as the Voronoi diagram of points along the edge (Brandt 1994, CVGIP
59:329-338, converges as they lie closer), less the branches to points where the edge
hardly turns. A point's depth follows from its distance to the true edge, so that no cut
goes beyond it: d / tan(θ/2), less what a flat tip takes.
"""

import math
from dataclasses import dataclass

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon, STRtree

from engraving.carving.order import by_short_ways
from engraving.carving.thinning import thinned
from engraving.carving.vtool import VTool
from engraving.geometry.polygons import polygons
from engraving.outline import hatch_lines

Values = NDArray[np.float64]

_STEP_MM = 0.1
_MOST_POINTS = 60_000
_QUARTER = 64
"""Straight pieces of a quarter of the arcs round flat ground."""
_TURNS_DEG = 35.0
"""The edge's two nearest points are seen under a larger angle, or it hardly turns there."""


@dataclass(frozen=True)
class Carved:
    """What carving areas comes to.

    Attributes
    ----------
    strokes : tuple of ndarray, shape (n, 3)
        mm, and height: 0 the surface, down negative; flat grounds first.
    widest_mm : float
        Width of the widest place.
    deepest_mm : float
        How deep the tool goes.
    flat_mm2 : float
        Ground that the tool's limit makes flat.
    """

    strokes: tuple[Values, ...]
    widest_mm: float
    deepest_mm: float
    flat_mm2: float


class _Edge:
    """An area's edge: how far points lie from it, and its corners."""

    def __init__(self, area: Polygon) -> None:
        rings = [shapely.get_coordinates(one) for one in (area.exterior, *area.interiors)]
        parts = np.concatenate([np.stack([one[:-1], one[1:]], axis=1) for one in rings])
        self._parts = STRtree(shapely.linestrings(parts))
        self.corners = parts[:, 0]
        self._near = scipy.spatial.cKDTree(self.corners)

    def away(self, points: Values) -> Values:
        """Return how far points lie from the edge."""
        (of, _), far = self._parts.query_nearest(
            shapely.points(points), return_distance=True, all_matches=False
        )
        out = np.zeros(len(points))
        out[of] = far
        return out

    def into_corners(self, line: Values) -> Values:
        """Return a line whose ends that lie next to a corner go into it."""
        far, at = self._near.query(line[[0, -1]])
        near = (far > 0) & (far <= 1.5 * _STEP_MM)
        first = self.corners[at[:1]] if near[0] else line[:0]
        last = self.corners[at[1:]] if near[1] else line[:0]
        return np.vstack([first, line, last])


def carve_inside(
    areas: MultiPolygon,
    tool: VTool,
    spacing_mm: float,
    start: tuple[float, float] = (0.0, 0.0),
) -> Carved:
    """Return the strokes that carve areas along their middle.

    Parameters
    ----------
    areas : MultiPolygon
        mm; valid.
    tool : VTool
        Where it may not go as deep as an area is wide, the ground is carved flat.
    spacing_mm : float
        Distance of the parallel lines of such a ground.
    start : tuple of float
        Where the tool stands before.
    """
    strokes: list[Values] = []
    widest, flat = 0.0, 0.0
    # An arc's straight pieces lie inside it; moved out so far, none is nearer the edge.
    reach = tool.widest_mm / 2 / math.cos(math.pi / (4 * _QUARTER))
    for area in areas.geoms:
        ground = polygons(area.buffer(-reach, quad_segs=_QUARTER))
        flat += ground.area
        strokes += _ground(ground, tool, spacing_mm)
        found, wide = _middle(area, ground, tool)
        if not found and ground.is_empty:
            found, wide = _plunge(area, tool)
        widest = max(widest, wide)
        strokes += found
    flats = [one for one in strokes if np.ptp(one[:, 2]) == 0 and len(one) > 1]
    lines = [one for one in strokes if not (np.ptp(one[:, 2]) == 0 and len(one) > 1)]
    deepest = max((float(-one[:, 2].min()) for one in strokes), default=0.0)
    done = by_short_ways(flats, np.array(start))
    at = done[-1][-1, :2] if done else np.array(start)
    return Carved((*done, *by_short_ways(lines, at)), widest, deepest, flat)


def _ground(ground: MultiPolygon, tool: VTool, spacing_mm: float) -> list[Values]:
    """Return the strokes of flat ground: parallel lines, then its edge."""
    if ground.is_empty:
        return []
    found = [np.asarray(one) for one in hatch_lines(ground, spacing_mm, 0.0)]
    rings = [ring for part in ground.geoms for ring in (part.exterior, *part.interiors)]
    found += [shapely.get_coordinates(ring) for ring in rings]
    low = -tool.deepest_mm
    return [np.column_stack([one, np.full(len(one), low)]) for one in found]


def _middle(area: Polygon, ground: MultiPolygon, tool: VTool) -> tuple[list[Values], float]:
    """Return the strokes along an area's middle, and the width of its widest place.

    What lies on flat ground is carved with it.
    """
    points = _edge_points(area)
    if len(points) < 4:
        return [], 0.0
    found = scipy.spatial.Voronoi(points)
    pairs, ends = found.ridge_points, np.array(found.ridge_vertices)
    finite = (ends >= 0).all(axis=1)
    pairs, ends = pairs[finite], ends[finite]
    nodes = found.vertices
    shapely.prepare(area)
    inside = shapely.contains_xy(area, *nodes.T)
    kept = inside[ends].all(axis=1) & _turns(points[pairs], nodes[ends])
    pairs, ends = pairs[kept], ends[kept]
    if not len(ends):
        return [], 0.0
    edge = _Edge(area)
    widest = 2 * float(edge.away(nodes[np.unique(ends)]).max())
    if not ground.is_empty:
        shapely.prepare(ground)
        flat = shapely.contains_xy(ground, *nodes.T)
        ends = ends[~flat[ends].all(axis=1)]
    lines = _joined(nodes, ends)
    strokes = [_stroke(line, edge, tool) for line in lines]
    return [one for one in strokes if len(one) > 1 and one[:, 2].min() < 0], widest


def _plunge(area: Polygon, tool: VTool) -> tuple[list[Values], float]:
    """Return the one place where a disc, whose middle is a point, is carved."""
    radius = shapely.maximum_inscribed_circle(area)
    x, y = shapely.get_coordinates(radius)[0]
    wide = 2 * float(radius.length)
    deep = min(tool.depth(wide), tool.deepest_mm)
    return ([np.array([[x, y, -deep]])] if deep > 0 else []), wide


def _edge_points(area: Polygon) -> Values:
    """Return points along an area's edge, its corners among them, each once."""
    step = max(_STEP_MM, area.length / _MOST_POINTS)
    found = []
    for ring in (area.exterior, *area.interiors):
        dense = shapely.get_coordinates(shapely.segmentize(ring, step))
        found.append(dense[:-1])
    return np.unique(np.round(np.concatenate(found), 9), axis=0)


def _turns(feet: Values, ends: Values) -> NDArray[np.bool_]:
    """Return which ridges see their two edge points under a large enough angle."""
    middle = ends.mean(axis=1)
    first, second = feet[:, 0] - middle, feet[:, 1] - middle
    long = np.hypot(*first.T) * np.hypot(*second.T)
    cosine = (first * second).sum(axis=1) / np.maximum(long, 1e-18)
    return np.asarray(cosine < math.cos(math.radians(_TURNS_DEG)))


def _joined(nodes: Values, ends: NDArray[np.intp]) -> list[Values]:
    """Return ridges joined to lines, shape (n, 2) each."""
    if not len(ends):
        return []
    parts = shapely.linestrings(nodes[ends])
    merged = shapely.line_merge(shapely.multilinestrings(parts))
    return [shapely.get_coordinates(one) for one in shapely.get_parts(merged)]


def _stroke(line: Values, edge: _Edge, tool: VTool) -> Values:
    """Return a line with its heights, drawn on into the corners it points at."""
    line = edge.into_corners(line)
    away = edge.away(line)
    deep = np.minimum((away - tool.tip_mm / 2) / tool.tangent, tool.deepest_mm)
    stroke = np.column_stack([line, -np.maximum(deep, 0.0)])
    return thinned(stroke)
