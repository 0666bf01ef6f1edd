"""The shapes that outlines follow, in mm from the middle of the picture, y away.

Offsets and areas by GEOS (shapely): round at outer corners, so that the line
keeps its distance everywhere.
"""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import TypeVar

import shapely
from shapely import LineString, MultiPolygon, Point, Polygon, STRtree
from shapely.affinity import rotate, scale, translate
from shapely.geometry import box

from engraving.drawing import DrawnShapes, drawn_shapes, solid
from engraving.geometry.polygons import polygons, rounded
from engraving.jobspec import JobSpec, OperationPart
from engraving.outline.grown import Grown, grown
from engraving.place import from_picture, lying_face

_Shape = TypeVar("_Shape", bound=shapely.Geometry)


@dataclass(frozen=True)
class Shapes:
    """What an operation goes along.

    Attributes
    ----------
    areas : MultiPolygon
        Closed outlines with their holes. Those that touch or cross stay apart,
        so it may be invalid as one geometry.
    lines : tuple of LineString
        Others, which are followed as they are.
    bodies : MultiPolygon
        The same areas before they were moved outward: what stays, or falls out.
    merged : int
        Outlines drawn again where one lies already, which are not followed.
    closed : int
        Gaps between loose ends that were closed.
    offset : Grown
        What moving them did to them.
    """

    areas: MultiPolygon
    lines: tuple[LineString, ...] = ()
    bodies: MultiPolygon = MultiPolygon()  # noqa: RUF009 (immutable)
    merged: int = 0
    closed: int = 0
    offset: Grown = Grown()  # noqa: RUF009 (immutable)

    @property
    def solid(self) -> MultiPolygon:
        """The areas as one valid geometry, what crosses or touches made one."""
        return polygons(solid(self.areas.geoms))


def outline_shape(
    spec: JobSpec, operation: OperationPart, found: MultiPolygon | None = None
) -> Shapes:
    """Return what an operation goes along, its offset and half its kerf applied.

    Parameters
    ----------
    found : MultiPolygon, optional
        What the mask keeps or what was traced, as the picture is looked at;
        needed for these shapes only.
    """
    out = operation.offset_mm
    kerf = operation.kerf_mm / 2 if operation.kind == "cut" else 0.0
    if operation.shape in ("rectangle", "rounded"):
        plain = _rectangle(spec).buffer(out, join_style="mitre")
        whole = _rectangle(spec).buffer(out + kerf, join_style="mitre")
        if operation.shape == "rounded":
            corner = operation.corner_mm + max(operation.offset_mm, 0)
            plain, whole = rounded(plain, corner), rounded(whole, corner)
        return Shapes(polygons(whole), bodies=polygons(plain))
    seen = Shapes(polygons(blank_area(spec)))
    if operation.placed:
        seen = _as_burned(spec, chosen(operation, found))
    bodies = grown(list(seen.areas.geoms), out, kerf_mm=0.0)
    moved = grown(bodies.areas, kerf, kerf_mm=operation.kerf_mm if kerf else 0.0)
    moved = moved.after(bodies)
    return Shapes(
        MultiPolygon(moved.areas), seen.lines, MultiPolygon(bodies.areas),
        seen.merged, seen.closed, moved,
    )  # fmt: skip


def candidates(
    operation: OperationPart, found: MultiPolygon | None
) -> tuple[MultiPolygon, tuple[LineString, ...]]:
    """Return all that could be used of a placed shape: its areas, and open lines."""
    if operation.shape != "drawn":
        return found if found is not None else MultiPolygon(), ()
    drawn = shapes_of(operation)
    return MultiPolygon(drawn.areas), tuple(drawn.lines)


def shapes_of(operation: OperationPart) -> DrawnShapes:
    """Return what an operation's drawing encloses, y away."""
    return drawn_shapes(operation.drawing, operation.join_mm)


def chosen(operation: OperationPart, found: MultiPolygon | None) -> Shapes:
    """Return what is used of a placed shape, scaled, turned and moved."""
    if operation.shape == "drawn":
        drawn = shapes_of(operation)
        kept = without(MultiPolygon(drawn.areas), operation.left_out)
        twins = drawn.twins_of(kept)
        lines = tuple(drawn.lines) + (tuple(twins) if operation.kind == "score" else ())
        merged, closed = (0 if operation.kind == "score" else len(twins)), drawn.closed
    else:
        kept = without(found or MultiPolygon(), operation.left_out)
        lines, merged, closed = (), 0, 0
    if operation.inverted and not kept.is_empty:
        room = box(*kept.bounds).buffer(operation.frame_mm, join_style="mitre")
        kept = polygons(room.difference(solid(kept.geoms)))
    laid = tuple(_laid(operation, one) for one in lines)
    return Shapes(_laid_areas(operation, kept), laid, merged=merged, closed=closed)


def without(areas: MultiPolygon, left_out: Iterable[tuple[float, float]]) -> MultiPolygon:
    """Return areas without the rings that hold some points, y towards the operator.

    Of rings inside one another the smallest that holds a point is meant: an
    area is then dropped, a hole is filled.
    """
    points = [Point(x, -y) for x, y in left_out]
    parts = list(areas.geoms)
    if not points:
        return areas
    rings = [
        (at, nth, Polygon(ring))
        for at, part in enumerate(parts)
        for nth, ring in enumerate([part.exterior, *part.interiors])
    ]
    tree = STRtree([ring for _, _, ring in rings])
    gone: dict[int, set[int]] = {}
    for point in points:
        held = tree.query(point, predicate="intersects")
        if len(held):
            at, nth, _ = rings[min(held, key=lambda one: rings[one][2].area)]
            gone.setdefault(at, set()).add(nth)
    kept = []
    for at, part in enumerate(parts):
        dropped = gone.get(at, set())
        if 0 in dropped:
            continue
        holes = [ring for nth, ring in enumerate(part.interiors, 1) if nth not in dropped]
        kept.append(Polygon(part.exterior, holes) if dropped else part)
    return MultiPolygon(kept)


def rings_of(areas: MultiPolygon) -> list[tuple[Polygon, tuple[float, float]]]:
    """Return each ring as an area and a point that means it, y towards the operator."""
    found = []
    tree = STRtree(areas.geoms)
    for part in areas.geoms:
        point = part.representative_point()
        found.append((Polygon(part.exterior), (round(point.x, 3), round(-point.y, 3))))
        for ring in part.interiors:
            hole = Polygon(ring)
            inside = tree.geometries.take(tree.query(hole, predicate="contains"))
            free = hole.difference(shapely.union_all(inside)) if len(inside) else hole
            point = free.representative_point()
            found.append((hole, (round(point.x, 3), round(-point.y, 3))))
    return found


def _laid(operation: OperationPart, shape: _Shape) -> _Shape:
    bigger = scale(shape, operation.scale_x / 100, operation.scale_y / 100, origin=(0, 0))
    turned = rotate(bigger, operation.turn_deg, origin=(0, 0))
    return translate(turned, operation.move_x_mm, operation.move_y_mm)


def _laid_areas(operation: OperationPart, areas: MultiPolygon) -> MultiPolygon:
    return MultiPolygon([_laid(operation, one) for one in areas.geoms])


def ring_as_burned(spec: JobSpec, operation: OperationPart, ring: Polygon) -> Polygon:
    """Return a ring of what could be chosen as it lies about the picture's middle."""
    laid = _laid(operation, ring)
    return scale(laid, -1, 1, origin=(0, 0)) if spec.mirrored else laid


def _as_burned(spec: JobSpec, seen: Shapes) -> Shapes:
    """Return shapes as they lie on the bed, mirrored where the picture is."""
    if not spec.mirrored:
        return seen
    areas = [scale(one, -1, 1, origin=(0, 0)) for one in seen.areas.geoms]
    lines = (scale(one, -1, 1, origin=(0, 0)) for one in seen.lines)
    return replace(seen, areas=MultiPolygon(areas), lines=tuple(lines))


def _rectangle(spec: JobSpec) -> Polygon:
    wide, high = spec.size.width_mm / 2, spec.size.height_mm / 2
    return box(-wide, -high, wide, high)


def blank_area(spec: JobSpec) -> shapely.Geometry:
    """Return the blank's edge as it lies under the picture, mirrored as it is burned."""
    return translate(lying_face(spec), *from_picture(spec))
