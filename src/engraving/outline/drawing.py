"""What a drawing's loose paths are: closed outlines and open lines, about their middle."""

import math
from collections.abc import Iterable

import shapely
from shapely import LineString, MultiLineString
from shapely.ops import linemerge

from engraving.errors import ArtworkError
from engraving.spec import DrawingPart
from engraving.spec.operations import MOST_DRAWN_POINTS

Points = list[tuple[float, float]]
_JOIN_MM = 0.01
_FINE_MM = 0.01
_SMALLEST_MM, _LARGEST_MM = 0.1, 3000.0


def drawing_of(file: str, paths: Iterable[tuple[Points, bool]]) -> DrawingPart:
    """Return a drawing of loose paths: ends that meet are joined.

    Parameters
    ----------
    file : str
        Its name.
    paths : iterable of (points, bool)
        Points in mm, y towards the operator, and whether they close.

    Raises
    ------
    ArtworkError
        When there is nothing in it, or it is out of all size.
    """
    rings: list[Points] = []
    loose: list[LineString] = []
    for points, closed in paths:
        if closed:
            rings.append(points)
        elif len(set(points)) >= 2:
            loose.append(LineString(points))
    lines: list[Points] = []
    for line in _joined(loose):
        points = list(line.coords)
        if line.is_ring and len(points) > 3:
            rings.append(points[:-1])
        else:
            lines.append(points)
    if not rings and not lines:
        raise ArtworkError("The drawing holds no lines.")
    return _part(file, rings, lines)


def _joined(loose: list[LineString]) -> list[LineString]:
    if not loose:
        return []
    near = shapely.set_precision(MultiLineString(loose), _JOIN_MM, mode="pointwise")
    merged = linemerge(near) if isinstance(near, MultiLineString) else near
    return [
        one for one in getattr(merged, "geoms", [merged]) if isinstance(one, LineString)
    ]


def _part(file: str, rings: list[Points], lines: list[Points]) -> DrawingPart:
    xs = [x for one in (*rings, *lines) for x, _ in one]
    ys = [y for one in (*rings, *lines) for _, y in one]
    if not all(math.isfinite(value) for value in xs + ys):
        raise ArtworkError("The drawing's numbers are not finite; save it again.")
    width, height = max(xs) - min(xs), max(ys) - min(ys)
    if not (_SMALLEST_MM <= max(width, height) <= _LARGEST_MM):
        raise ArtworkError(
            f"The drawing is {width:.2f} × {height:.2f} mm; give its size in mm."
        )
    middle = (max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2
    thin = tuple(
        tuple(_centred(one, middle, closed=closed) for one in group)
        for group, closed in ((rings, True), (lines, False))
    )
    if sum(len(one) for group in thin for one in group) > MOST_DRAWN_POINTS:
        raise ArtworkError(f"The drawing has more than {MOST_DRAWN_POINTS} points.")
    if max(len(group) for group in thin) > 2000:
        raise ArtworkError("The drawing has more than 2000 outlines.")
    return DrawingPart(
        file=file[:200],
        rings=tuple(one for one in thin[0] if len(one) >= 3),
        lines=tuple(one for one in thin[1] if len(one) >= 2),
    )


def _centred(
    points: Points, middle: tuple[float, float], *, closed: bool
) -> tuple[tuple[float, float], ...]:
    line = LineString([*points, points[0]] if closed else points)
    fine = list(shapely.simplify(line, _FINE_MM).coords)
    return tuple(
        (round(x - middle[0], 4), round(y - middle[1], 4))
        for x, y in (fine[:-1] if closed else fine)
    )
