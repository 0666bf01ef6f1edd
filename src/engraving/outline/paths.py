"""From shapes to the lines the beam follows: inside before outside, bridges left out."""

import math
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from shapely import LinearRing, LineString, MultiPolygon, Point
from shapely.ops import substring

from engraving.outline.hatch import hatch_lines
from engraving.outline.shapes import outline_shape
from engraving.spec import JobSpec, OperationPart

Path = NDArray[np.float64]
"""Points of a line, shape (n, 2), mm on the bed."""
_CIRCLE = 64


def outline_paths(
    spec: JobSpec, operation: OperationPart, found: MultiPolygon | None = None
) -> list[Path]:
    """Return the lines of one pass of an operation on the bed, in burning order.

    What lies inside is cut before what holds it: open lines, the hole to hang
    it by, then holes, then outer edges; the smallest first.
    """
    shapes = outline_shape(spec, operation, found)
    middle = np.array([
        spec.place.x_mm + spec.size.width_mm / 2, spec.place.y_mm + spec.size.height_mm / 2,
    ])  # fmt: skip
    if operation.kind == "hatch":
        lines = hatch_lines(
            shapes.areas, operation.spacing_mm, operation.hatch_deg, cross=operation.cross
        )
        return list(lines + middle)
    areas = shapes.areas
    followed = [
        *shapes.lines, *_hole(operation, areas), *_inner(areas), *_outer(areas, operation),
    ]  # fmt: skip
    return [np.asarray(line.coords) + middle for line in followed]


def _hole(operation: OperationPart, shape: MultiPolygon) -> Iterator[LineString]:
    if not operation.hole_mm or shape.is_empty:
        return
    left, _, right, high = max(shape.geoms, key=lambda one: one.area).bounds
    radius = (operation.hole_mm - operation.kerf_mm) / 2
    x, y = (left + right) / 2, high - operation.hole_inset_mm
    if radius <= 0:
        return
    turn = np.linspace(0, 2 * math.pi, _CIRCLE + 1)
    yield LineString(
        np.stack([x + radius * np.cos(turn), y + radius * np.sin(turn)], axis=1)
    )


def _inner(shape: MultiPolygon) -> Iterator[LineString]:
    rings = [ring for one in shape.geoms for ring in one.interiors]
    for ring in sorted(rings, key=lambda one: one.length):
        yield LineString(ring.coords)


def _outer(shape: MultiPolygon, operation: OperationPart) -> Iterator[LineString]:
    for one in sorted(shape.geoms, key=lambda part: part.area):
        ring = LinearRing(one.exterior.coords)
        yield from _bridged(ring, operation)


def _bridged(ring: LinearRing, operation: OperationPart) -> Iterator[LineString]:
    """Yield a ring without its bridges, evenly spaced; whole ones with their lead-in."""
    around, wide = ring.length, operation.bridge_mm
    line = LineString(ring.coords)
    if not operation.bridges or operation.bridges * wide >= around:
        yield _led_in(line, ring, operation.lead_in_mm)
        return
    step = around / operation.bridges
    for i in range(operation.bridges):
        part = substring(line, i * step + wide / 2, (i + 1) * step - wide / 2)
        if isinstance(part, LineString):
            yield _led_in(part, ring, operation.lead_in_mm)


def _led_in(line: LineString, ring: LinearRing, lead_mm: float) -> LineString:
    """Return a line that begins so far outside the ring, square to it."""
    if not lead_mm:
        return line
    (x0, y0), (x1, y1) = line.coords[0], line.coords[1]
    long = math.hypot(x1 - x0, y1 - y0) or 1.0
    side = (y1 - y0) / long, -(x1 - x0) / long
    inside = ring.is_ccw
    way = 1 if inside else -1
    begin = Point(x0 + way * side[0] * lead_mm, y0 + way * side[1] * lead_mm)
    return LineString([begin.coords[0], *line.coords])


def path_data(paths: list[Path], deep_mm: float) -> str:
    """Return SVG path data of lines on the bed, y counted from its back."""
    return "".join(
        "M" + "L".join(f"{x:.3f} {deep_mm - y:.3f}" for x, y in path) for path in paths
    )
