"""A drawing as an operation holds it: closed outlines and open lines about their middle."""

from collections.abc import Iterable
from itertools import groupby

import numpy as np
import shapely
from shapely import LineString, Polygon

from engraving.drawing.joined import joined
from engraving.drawing.paths import Drawn, DrawnPath
from engraving.errors import ArtworkError
from engraving.jobspec import Compound, DrawingPart
from engraving.jobspec.operations import MOST_DRAWN, MOST_DRAWN_POINTS

_THIN_MM = 0.002
_SMALLEST_MM, _LARGEST_MM = 0.1, 3000.0


def drawing_of(file: str, drawn: Drawn) -> DrawingPart:
    """Return a drawing about its middle, y towards the operator.

    Ends that meet are joined; ends that nearly meet are left to the operation.

    Raises
    ------
    ArtworkError
        When there is nothing in it, or it is out of all size.
    """
    paths, _ = joined(drawn.paths, 0)
    if not paths:
        raise ArtworkError(_nothing(drawn))
    middle = _middle(paths)
    rings = [one for one in paths if one.closed]
    lines = [one for one in paths if not one.closed]
    thin = [[_thinned(one, middle) for one in group] for group in (rings, lines)]
    if sum(len(one) for group in thin for one in group) > MOST_DRAWN_POINTS:
        raise ArtworkError(f"The drawing has more than {MOST_DRAWN_POINTS} points.")
    if max(len(group) for group in thin) > MOST_DRAWN:
        raise ArtworkError(f"The drawing has more than {MOST_DRAWN} outlines.")
    return DrawingPart(
        file=file[:200],
        rings=tuple(thin[0]),
        lines=tuple(thin[1]),
        compounds=tuple(_compounds(rings)),
        missing=drawn.words,
    )


def _nothing(drawn: Drawn) -> str:
    if not drawn.left_out:
        return "The drawing holds no lines."
    return f"The drawing holds no lines that are drawn; left out: {', '.join(drawn.words)}."


def _middle(paths: list[DrawnPath]) -> np.ndarray:
    points = np.concatenate([one.points for one in paths])
    if not np.isfinite(points).all():
        raise ArtworkError("The drawing's numbers are not finite; save it again.")
    low, high = points.min(axis=0), points.max(axis=0)
    width, height = high - low
    if not (_SMALLEST_MM <= max(width, height) <= _LARGEST_MM):
        raise ArtworkError(
            f"The drawing is {width:.2f} × {height:.2f} mm; give its size in mm."
        )
    return np.asarray((low + high) / 2)


def _thinned(path: DrawnPath, middle: np.ndarray) -> tuple[tuple[float, float], ...]:
    """Return a line without the points that lie on it."""
    points = path.points
    line = LineString([*points, points[0]] if path.closed else points)
    fine = np.array(shapely.simplify(line, _THIN_MM).coords)
    if path.closed:
        fine = fine[:-1] if len(fine) > 3 else points
    return tuple(
        (round(x - middle[0], 4), round(middle[1] - y, 4)) for x, y in fine.tolist()
    )


def _compounds(rings: list[DrawnPath]) -> Iterable[Compound]:
    """Yield the shapes of several rings, or of one that crosses itself."""
    first = 0
    for _, group in groupby(rings, key=lambda one: one.shape):
        held = list(group)
        if len(held) > 1 or not _plain(held[0]):
            yield Compound(first=first, count=len(held), nonzero=held[0].nonzero)
        first += len(held)


def _plain(ring: DrawnPath) -> bool:
    return bool(Polygon(ring.points).is_valid)
