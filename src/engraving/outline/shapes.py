"""The shapes that outlines follow, in mm from the middle of the picture, y away.

Offsets and areas by GEOS (shapely): round at outer corners, so that the line
keeps its distance everywhere.
"""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
import shapely
from shapely import LineString, MultiPolygon, Point, Polygon, STRtree
from shapely.affinity import rotate, scale, translate
from shapely.geometry import box

from engraving.spec import JobSpec, OperationPart

_Shape = TypeVar("_Shape", bound=shapely.Geometry)

_QUARTER = 24


@dataclass(frozen=True)
class Shapes:
    """What an operation goes along.

    Attributes
    ----------
    areas : MultiPolygon
        Closed outlines with their holes.
    lines : tuple of LineString
        Open ones, which are followed as they are.
    """

    areas: MultiPolygon
    lines: tuple[LineString, ...] = ()


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
    if operation.kind == "cut":
        out += operation.kerf_mm / 2
    if operation.shape == "rounded":
        corner = operation.corner_mm + max(operation.offset_mm, 0)
        grown = _rectangle(spec).buffer(out, join_style="mitre")
        return Shapes(_many(_rounded(grown, corner)))
    if operation.shape == "rectangle":
        return Shapes(_many(_rectangle(spec).buffer(out, join_style="mitre")))
    whole = Shapes(_many(blank_area(spec)))
    if operation.placed:
        whole = _as_burned(spec, chosen(operation, found))
    grown = whole.areas.buffer(out, quad_segs=_QUARTER) if out else whole.areas
    return Shapes(_many(grown), whole.lines)


def candidates(
    operation: OperationPart, found: MultiPolygon | None
) -> tuple[MultiPolygon, tuple[LineString, ...]]:
    """Return all that could be used of a placed shape: its areas, and open lines."""
    if operation.shape != "drawn":
        return found if found is not None else MultiPolygon(), ()
    lines = [LineString([(x, -y) for x, y in one]) for one in operation.drawing.lines]
    return _even_odd(operation.drawing.rings), tuple(lines)


def chosen(operation: OperationPart, found: MultiPolygon | None) -> Shapes:
    """Return what is used of a placed shape, scaled, turned and moved."""
    areas, lines = candidates(operation, found)
    kept = without(areas, operation.left_out)
    if operation.inverted and not kept.is_empty:
        room = box(*kept.bounds).buffer(operation.frame_mm, join_style="mitre")
        kept = _many(room.difference(kept))
    return Shapes(
        _many(_laid(operation, kept)), tuple(_laid(operation, one) for one in lines)
    )


def without(areas: MultiPolygon, left_out: Iterable[tuple[float, float]]) -> MultiPolygon:
    """Return areas without the rings that hold some points, y towards the operator.

    Of rings inside one another the smallest that holds a point is meant: an
    area is then dropped, a hole is filled.
    """
    parts = list(areas.geoms)
    for x, y in left_out:
        point = Point(x, -y)
        held = [
            (Polygon(ring).area, at, nth)
            for at, part in enumerate(parts)
            if part.envelope.covers(point)
            for nth, ring in enumerate([part.exterior, *part.interiors])
            if Polygon(ring).covers(point)
        ]
        if not held:
            continue
        _, at, nth = min(held)
        if nth == 0:
            parts.pop(at)
        else:
            holes = list(parts[at].interiors)
            holes.pop(nth - 1)
            parts[at] = Polygon(parts[at].exterior, holes)
    return MultiPolygon(parts)


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
    grown = scale(shape, operation.scale_x / 100, operation.scale_y / 100, origin=(0, 0))
    turned = rotate(grown, operation.turn_deg, origin=(0, 0))
    return translate(turned, operation.move_x_mm, operation.move_y_mm)


def ring_as_burned(spec: JobSpec, operation: OperationPart, ring: Polygon) -> Polygon:
    """Return a ring of what could be chosen as it lies about the picture's middle."""
    laid = _laid(operation, ring)
    return scale(laid, -1, 1, origin=(0, 0)) if spec.mirrored else laid


def _as_burned(spec: JobSpec, seen: Shapes) -> Shapes:
    """Return shapes as they lie on the bed, mirrored where the picture is."""
    if not spec.mirrored:
        return seen
    areas, *lines = (scale(one, -1, 1, origin=(0, 0)) for one in (seen.areas, *seen.lines))
    return Shapes(areas, tuple(lines))


def _even_odd(rings: Iterable[Iterable[tuple[float, float]]]) -> MultiPolygon:
    """Return areas of drawn rings; one in another is a hole."""
    whole: shapely.Geometry = Polygon()
    for ring in rings:
        whole = whole.symmetric_difference(Polygon([(x, -y) for x, y in ring]).buffer(0))
    return _many(whole)


def _many(shape: shapely.Geometry) -> MultiPolygon:
    parts = [shape] if isinstance(shape, Polygon) else list(getattr(shape, "geoms", []))
    return MultiPolygon(
        [one for one in parts if isinstance(one, Polygon) and not one.is_empty]
    )


def _rectangle(spec: JobSpec) -> Polygon:
    wide, high = spec.size.width_mm / 2, spec.size.height_mm / 2
    return box(-wide, -high, wide, high)


def _rounded(shape: Polygon, corner_mm: float) -> shapely.Geometry:
    left, low, right, high = shape.bounds
    corner = min(corner_mm, (right - left) / 2 - 1e-6, (high - low) / 2 - 1e-6)
    if corner <= 0:
        return shape
    return shape.buffer(-corner, join_style="mitre").buffer(corner, quad_segs=_QUARTER)


def blank_area(spec: JobSpec) -> shapely.Geometry:
    """Return the blank's edge as it lies under the picture."""
    blank, size = spec.blank, spec.size
    way = -1 if spec.mirrored else 1
    x, y = -way * size.offset_x_mm, -size.offset_y_mm
    wide, high = blank.width_mm / 2, blank.height_mm / 2
    if blank.shape in ("disc", "oval"):
        turn = np.linspace(0, 2 * np.pi, 8 * _QUARTER, endpoint=False)
        edge = np.stack([x + wide * np.cos(turn), y + high * np.sin(turn)], axis=1)
        return Polygon(edge)
    if blank.shape == "outline":
        drawn = scale(_even_odd(blank.outline), way, 1, origin=(0, 0))
        return translate(drawn, x, y)
    plain = box(x - wide, y - high, x + wide, y + high)
    return _rounded(plain, blank.corner_mm) if blank.shape == "rounded" else plain
