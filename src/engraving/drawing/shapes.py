"""A drawing's areas and loose lines, as an operation uses them."""

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from shapely import LineString, MultiPolygon, Polygon, STRtree

from engraving.drawing.areas import filled, nested, strays
from engraving.drawing.joined import drawn_twice, joined
from engraving.drawing.paths import DrawnPath
from engraving.jobspec import DrawingPart

_SAME_MM = 0.01


@dataclass(frozen=True)
class DrawnShapes:
    """What a drawing encloses, and its other lines; mm, y away.

    Attributes
    ----------
    areas : list of Polygon
        Areas with their holes; touching and crossing ones each by itself.
    lines : list of LineString
        Open lines, and lines inside an area's fill.
    twins : list of LineString
        Outlines that were drawn again where one lies already.
    closed : int
        Gaps between loose ends that were closed.
    """

    areas: list[Polygon]
    lines: list[LineString]
    twins: list[LineString]
    closed: int = 0

    def twins_of(self, kept: MultiPolygon) -> list[LineString]:
        """Return the outlines drawn again of what is still used."""
        if not self.twins:
            return []
        rings = [ring for one in kept.geoms for ring in (one.exterior, *one.interiors)]
        tree = STRtree(rings)
        return [
            twin
            for twin in self.twins
            if any(
                shapely.hausdorff_distance(twin, rings[at]) < _SAME_MM
                for at in tree.query(twin, predicate="intersects")
            )
        ]


@lru_cache(maxsize=16)
def drawn_shapes(drawing: DrawingPart, join_mm: float = 0.0) -> DrawnShapes:
    """Return what a drawing encloses, its loose ends joined within so many mm."""
    rings = [_upward(ring) for ring in drawing.rings]
    loose, closed = joined([DrawnPath(_upward(one), closed=False) for one in drawing.lines],
                           join_mm)  # fmt: skip
    single, compound = _groups(drawing, len(rings))
    groups = [([rings[at]], False) for at in single]
    groups += [([rings[at] for at in held], nonzero) for held, nonzero in compound]
    groups += [([one.points], False) for one in loose if one.closed]
    lines = [LineString(one.points) for one in loose if not one.closed]
    shapes: list[Polygon] = []
    for held, nonzero in groups:
        areas = filled(held, nonzero=nonzero)
        shapes += areas
        if len(held) > 1 or not Polygon(held[0]).is_valid:
            lines += strays(held, areas)
    edges = [LineString(one.exterior.coords) for one in shapes]
    twice = [at for at in drawn_twice(edges) if not shapes[at].interiors]
    gone = set(twice)
    apart = [one for at, one in enumerate(shapes) if at not in gone]
    whole, between = nested(apart)
    return DrawnShapes(whole, lines + between, [edges[at] for at in twice], closed)


def _groups(drawing: DrawingPart, count: int) -> tuple[list[int], list[tuple[range, bool]]]:
    """Return rings that are a shape of their own, and those that are one together."""
    held = [
        (range(one.first, one.first + one.count), one.nonzero) for one in drawing.compounds
    ]
    inside = {at for group, _ in held for at in group}
    return [at for at in range(count) if at not in inside], held


def _upward(points: Iterable[tuple[float, float]]) -> np.ndarray:
    return np.asarray(list(points), np.float64) * (1, -1)


def solid(areas: Iterable[Polygon]) -> shapely.Geometry:
    """Return areas as one valid geometry."""
    return shapely.union_all(list(areas))
