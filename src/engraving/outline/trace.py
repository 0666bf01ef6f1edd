"""Areas of a picture by their tones, with smooth edges and sharp corners.

Edges are the lines of equal tone between dots (marching squares: Lorensen &
Cline 1987, in the plane), so a gray edge is found to a part of a dot. They are
then smoothed along themselves, from corner to corner, so corners stay.
"""

import math
from itertools import pairwise
from typing import NamedTuple, cast

import numpy as np
import shapely
from contourpy import FillType, contour_generator
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon
from shapely.geometry import box

from engraving.geometry.polygons import polygons
from engraving.jobspec import TracePart
from engraving.outline.measures import areas_of, signed_area
from engraving.outline.smoothing import smoothed

MOST_AREAS = 2000
_WHITE = 255.0
_Edge = tuple[NDArray[np.float64], NDArray[np.uint32]]
"""Points of an outer edge and its holes, and where each begins."""
_Filled = tuple[list[NDArray[np.float64]], list[NDArray[np.uint32]]]
_STEP_DOTS = 0.5
_NOTHING = 1e-9
_FINE_DOTS = 0.1
"""How far the drawn edge may lie beside the smoothed one, in dots."""
_SURELY = 0.9
"""A ring of less than this share of the smallest area kept is not even smoothed."""


class Traced(NamedTuple):
    """Areas of some tones, and how many smaller ones and holes were dropped."""

    areas: MultiPolygon
    specks: int


def traced(
    codes: NDArray[np.uint8],
    cell_mm: tuple[float, float],
    trace: TracePart,
    mask: NDArray[np.uint8] | None = None,
) -> Traced:
    """Return the areas of some tones, largest first, at most `MOST_AREAS`.

    Parameters
    ----------
    codes : ndarray of uint8, shape (rows, cols)
        Tones, 0 black.
    cell_mm : tuple of float
        Length of a dot and distance of the rows.
    trace : TracePart
    mask : ndarray of uint8, shape (rows, cols), optional
        What it does not keep is never traced.

    Returns
    -------
    Traced
        In mm from the middle of the picture, y away.
    """
    rows, cols = codes.shape
    top, low = _span(trace.top, trace.height, rows)
    left, right = _span(trace.left, trace.width, cols)
    # One dot more on every side, so that areas reach the outermost dots' edges.
    field = np.pad(codes[top:low, left:right].astype(np.float32), 1, mode="edge")
    origin = left - 0.5 - cols / 2, top - 0.5 - rows / 2
    edges = _found(field, trace)
    sizes = _sizes(edges)
    largest = zip(edges[: 4 * MOST_AREAS], sizes, strict=False)
    smooth = [
        area
        for edge, size in largest
        for area in _area(*edge, size, origin, cell_mm, trace)
    ]
    along, pitch = cell_mm
    part = box(
        (left - cols / 2) * along, (rows / 2 - low) * pitch,
        (right - cols / 2) * along, (rows / 2 - top) * pitch,
    )  # fmt: skip
    found = shapely.intersection(smooth, part)
    if mask is not None:
        kept = kept_areas(mask, cell_mm, TracePart(smooth_mm=0, least_mm=0))
        found = shapely.intersection(found, kept)
    least = np.pi / 4 * trace.least_mm**2
    parts = [
        one
        for one in shapely.get_parts(found)
        if isinstance(one, Polygon) and one.area > max(least, _NOTHING)
    ]
    # Smoothed each by itself, edges that lay side by side may cross.
    whole = shapely.get_parts(shapely.disjoint_subset_union_all(parts)) if parts else []
    areas = MultiPolygon(sorted(whole, key=lambda one: -one.area)[:MOST_AREAS])
    dropped = np.count_nonzero(np.concatenate(sizes) < least / (along * pitch))
    return Traced(areas, int(dropped))


def _sizes(edges: list[_Edge]) -> list[NDArray[np.float64]]:
    """Return for each outer edge what it and its holes go round, in squares of a dot."""
    if not edges:
        return [np.zeros(0)]
    points = np.concatenate([one for one, _ in edges])
    counts = [np.diff(starts) for _, starts in edges]
    sizes = areas_of(points, np.concatenate(counts))
    return np.split(sizes, np.cumsum([len(one) for one in counts])[:-1])


def _span(start: float, long: float, count: int) -> tuple[int, int]:
    """Return the first dot of a share of them, and the one after the last."""
    first = min(round(start * count), count - 1)
    return first, min(count, max(first + 1, round((start + long) * count)))


def _area(
    points: NDArray[np.float64], starts: NDArray[np.uint32], sizes: NDArray[np.float64],
    origin: tuple[float, float], cell_mm: tuple[float, float], trace: TracePart,
) -> list[Polygon]:  # fmt: skip
    """Return the areas of one outer edge and its holes, smoothed and thinned out."""
    least = np.pi / 4 * trace.least_mm**2
    # Smoothing gives each ring its size back: what is too small now stays so.
    large = sizes * math.prod(cell_mm) >= _SURELY * least
    if not large[0]:
        return []
    rings = [
        points[a:b] for (a, b), one in zip(pairwise(starts), large, strict=True) if one
    ]
    drawn = [_drawn(ring, origin, cell_mm, trace) for ring in rings]
    kept = [one for one in drawn if one is not None and abs(signed_area(one)) >= least]
    # Without its outer edge nothing is left of it.
    if not kept or kept[0] is not drawn[0]:
        return []
    return list(polygons(_thinned(kept, _FINE_DOTS * min(cell_mm))).geoms)


def _thinned(rings: list[NDArray[np.float64]], fine_mm: float) -> Polygon | MultiPolygon:
    """Return an area without the points that lie on its edges to within a distance.

    Line by line (Douglas & Peucker 1973); where that lets edges cross, holes are taken
    out of what the outer edge goes round. Holding each line against all the others, or
    mending by a buffer of nothing, takes seven times as long.
    """
    closed = [np.concatenate((ring, ring[:1])) for ring in rings]
    which = np.repeat(np.arange(len(closed)), [len(ring) for ring in closed])
    lines = shapely.linestrings(np.concatenate(closed), indices=which)
    thin = shapely.simplify(lines, fine_mm, preserve_topology=False)
    outer, *holes = (
        one if len(one.coords) > 3 else whole
        for one, whole in zip(thin, lines, strict=True)
    )
    area = Polygon(outer.coords, [hole.coords for hole in holes])
    if area.is_valid:
        return area
    return shapely.make_valid(area, method="structure", keep_collapsed=False)


def kept_areas(
    mask: NDArray[np.uint8], cell_mm: tuple[float, float], trace: TracePart
) -> MultiPolygon:
    """Return the areas that a mask keeps, their edges drawn as for `traced`."""
    whole = TracePart(
        smooth_mm=trace.smooth_mm, least_mm=trace.least_mm, corner_deg=trace.corner_deg
    )
    return traced(255 - mask, cell_mm, whole).areas


def _found(field: NDArray[np.float32], trace: TracePart) -> list[_Edge]:
    """Return outer edge and holes of each area, in dots of the framed field."""
    lightest = trace.lightest / 100 * _WHITE + 0.5
    darkest = trace.darkest / 100 * _WHITE - 0.5
    lines = contour_generator(z=field, fill_type=FillType.OuterOffset)
    points, offsets = cast("_Filled", lines.filled(darkest, lightest))
    pairs = zip(points, offsets, strict=True)
    return sorted(pairs, key=lambda pair: -len(pair[0]))


def _drawn(
    ring: NDArray[np.float64], origin: tuple[float, float], cell_mm: tuple[float, float],
    trace: TracePart,
) -> NDArray[np.float64] | None:  # fmt: skip
    """Return a ring in mm about the picture's middle, smooth; None where it is nothing."""
    along, pitch = cell_mm
    x = (ring[:-1, 0] + origin[0]) * along
    y = -(ring[:-1, 1] + origin[1]) * pitch
    points = np.stack([x, y], axis=1)
    smooth = smoothed(points, trace.smooth_mm, trace.corner_deg, _STEP_DOTS * min(cell_mm))
    return smooth if len(smooth) >= 3 else None
