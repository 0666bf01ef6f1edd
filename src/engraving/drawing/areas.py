"""What closed lines enclose: each shape by its own fill rule, one inside another a hole."""

from collections.abc import Iterable, Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import LinearRing, LineString, MultiLineString, Polygon, STRtree
from shapely.ops import linemerge

_HAIR_MM = 1e-3
_GRID_MM = 1e-4

Rings = Sequence[NDArray[np.float64]]


def filled(rings: Rings, *, nonzero: bool) -> list[Polygon]:
    """Return the areas of the rings of one shape (SVG 2, fill-rule).

    Parameters
    ----------
    rings : sequence of ndarray, shape (n, 2)
    nonzero : bool
        Filled is where they wind round a place; else where an odd number of
        them goes round it.
    """
    if len(rings) == 1:
        whole = Polygon(rings[0])
        if whole.is_valid:
            return [whole] if whole.area else []
    noded = shapely.union_all([LinearRing(ring) for ring in rings])
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(noded)))
    if not len(faces):
        return []
    inside = shapely.get_coordinates(shapely.point_on_surface(faces))
    winds = sum(_windings(ring, inside, signed=nonzero) for ring in rings)
    kept = faces[np.asarray(winds != 0 if nonzero else winds % 2 == 1)]
    # Faces of one side are one area where they share an edge, not where they touch.
    return [one for one in shapely.get_parts(shapely.union_all(kept)) if one.area]


def _windings(
    ring: NDArray[np.float64], points: NDArray[np.float64], *, signed: bool
) -> NDArray[np.int64]:
    """Return how often a ring goes round each point, by the edges right of it."""
    a, b = ring, np.roll(ring, -1, axis=0)
    found = np.zeros(len(points), np.int64)
    for at, (x, y) in enumerate(points):
        rises = (a[:, 1] <= y) & (b[:, 1] > y)
        falls = (b[:, 1] <= y) & (a[:, 1] > y)
        either = rises | falls
        p, q = a[either], b[either]
        right = p[:, 0] + (y - p[:, 1]) / (q[:, 1] - p[:, 1]) * (q[:, 0] - p[:, 0]) > x
        up, down = int((rises[either] & right).sum()), int((falls[either] & right).sum())
        found[at] = up - down if signed else up + down
    return found


def strays(rings: Rings, areas: Iterable[Polygon]) -> list[LineString]:
    """Return what of a shape's lines bounds none of its areas."""
    lines = shapely.union_all([LinearRing(ring) for ring in rings])
    edges = shapely.union_all([shapely.boundary(one) for one in areas])
    return lines_of(shapely.difference(lines, edges))


def lines_of(shape: shapely.Geometry, longer_than_mm: float = _HAIR_MM) -> list[LineString]:
    """Return the lines of what an overlay left, joined where they meet."""
    joined = linemerge(shape) if isinstance(shape, MultiLineString) else shape
    return [
        one
        for one in shapely.get_parts(joined)
        if isinstance(one, LineString) and one.length > longer_than_mm
    ]


def nested(shapes: Sequence[Polygon]) -> tuple[list[Polygon], list[LineString]]:
    """Return areas with those inside them as their holes, alternating with depth.

    Areas that touch, cross or lie apart stay as they are. Holes that touch or cross
    one another are one hole; the lines between them are returned beside the areas.
    """
    if not shapes:
        return [], []
    holders = _holders(shapes)
    depth = np.array([len(one) for one in holders])
    holes: dict[int, list[int]] = {}
    for at, held in enumerate(holders):
        if depth[at] % 2:
            parent = max(held, key=lambda one: depth[one])
            holes.setdefault(parent, []).append(at)
    found: list[Polygon] = []
    between: list[LineString] = []
    for at, shape in enumerate(shapes):
        if depth[at] % 2:
            continue
        gone = [shapes[one] for one in holes.get(at, [])]
        left = shape
        if gone:
            open_ = shapely.union_all(gone)
            between += _between(gone, open_)
            left = shapely.difference(shape, open_)
        found += [one for one in shapely.get_parts(left) if isinstance(one, Polygon)]
        # What a hole leaves of its own holes is material again.
        rings = [Polygon(ring) for hole in gone for ring in hole.interiors]
        found += [one for one in rings if one.area]
    return found, between


def _between(holes: Sequence[Polygon], whole: shapely.Geometry) -> list[LineString]:
    """Return what of the holes' lines does not bound them all together."""
    if abs(sum(one.length for one in holes) - whole.length) <= _HAIR_MM:
        return []
    lines, bound = [], whole.boundary
    for hole in holes:
        own = shapely.intersection(hole.boundary, bound, grid_size=_GRID_MM)
        bound = shapely.difference(bound, own, grid_size=_GRID_MM)
        rest = shapely.difference(hole.boundary, own, grid_size=_GRID_MM)
        lines += lines_of(rest)
    return lines


def _holders(shapes: Sequence[Polygon]) -> list[list[int]]:
    """Return which areas hold each one whole, without touching it."""
    outer = [Polygon(one.exterior) for one in shapes]
    tree = STRtree(outer)
    found: list[list[int]] = [[] for _ in shapes]
    inner, holder = tree.query(list(shapes), predicate="within")
    for one, other in zip(inner.tolist(), holder.tolist(), strict=True):
        if one != other and not outer[other].exterior.intersects(shapes[one]):
            found[one].append(other)
    return found
