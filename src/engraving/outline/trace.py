"""Areas of a picture by their tones, with smooth edges and sharp corners.

Edges are the lines of equal tone between dots (marching squares: Lorensen &
Cline 1987, in the plane), so a gray edge is found to a part of a dot. They are
then smoothed along themselves, from corner to corner, so corners stay.
"""

import math
from itertools import pairwise
from typing import NamedTuple, cast

import cv2
import numpy as np
import scipy
import shapely
from contourpy import FillType, contour_generator
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon
from shapely.geometry import box

from engraving.jobspec import TracePart

MOST_AREAS = 2000
_WHITE = 255.0
_Filled = tuple[list[NDArray[np.float64]], list[NDArray[np.uint32]]]
_STEP_DOTS = 0.5
_NOTHING = 1e-9
_FINE_DOTS = 0.1
"""How far the drawn edge may lie beside the smoothed one, in dots."""
_TRIES = 4
_SURELY = 0.9
"""A ring of less than this share of the smallest area kept is not even smoothed."""
_EXACT = 1e-4
_REACH = 3
_LEAST_REACH = 4
_MOST_MOVED = 2.5
"""How far a blunt corner may lie beside its sides' meeting, in steps."""


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
    polygons = [
        area
        for points, starts in edges[: 4 * MOST_AREAS]
        for area in _area(points, starts, origin, cell_mm, trace)
    ]
    along, pitch = cell_mm
    part = box(
        (left - cols / 2) * along, (rows / 2 - low) * pitch,
        (right - cols / 2) * along, (rows / 2 - top) * pitch,
    )  # fmt: skip
    found = shapely.intersection(polygons, part)
    if mask is not None:
        kept = kept_areas(mask, cell_mm, TracePart(smooth_mm=0, least_mm=0))
        found = shapely.intersection(found, kept)
    least = np.pi / 4 * trace.least_mm**2
    parts = [
        one
        for shape in found
        for one in getattr(shape, "geoms", [shape])
        if isinstance(one, Polygon) and one.area > max(least, _NOTHING)
    ]
    # Smoothed each by itself, edges that lay side by side may cross.
    whole = shapely.get_parts(shapely.union_all(parts)) if parts else []
    areas = MultiPolygon(sorted(whole, key=lambda one: -one.area)[:MOST_AREAS])
    return Traced(areas, _specks(edges, least / (along * pitch)))


def _specks(
    edges: list[tuple[NDArray[np.float64], NDArray[np.uint32]]], least: float
) -> int:
    """Return how many edges go round less than an area, in squares of a dot."""
    if not edges or least <= 0:
        return 0
    points = np.concatenate([one for one, _ in edges])
    sizes = np.concatenate([np.diff(starts) for _, starts in edges])
    return int(np.count_nonzero(_sizes_of(points, sizes) < least))


def _sizes_of(
    points: NDArray[np.float64], counts: NDArray[np.integer]
) -> NDArray[np.float64]:
    """Return what rings, one after the other, go round, in squares of a dot."""
    ahead = _next(points)
    cross = points[:, 0] * ahead[:, 1] - points[:, 1] * ahead[:, 0]
    counts = counts.astype(np.intp)
    first = np.cumsum(counts) - counts
    # An edge ends where it began, so what lies between two edges adds nothing.
    cross[first + counts - 1] = 0
    return np.asarray(np.abs(np.add.reduceat(cross, first)) / 2)


def _span(start: float, long: float, count: int) -> tuple[int, int]:
    """Return the first dot of a share of them, and the one after the last."""
    first = min(round(start * count), count - 1)
    return first, min(count, max(first + 1, round((start + long) * count)))


def _area(
    points: NDArray[np.float64], starts: NDArray[np.uint32],
    origin: tuple[float, float], cell_mm: tuple[float, float], trace: TracePart,
) -> list[Polygon]:  # fmt: skip
    """Return the areas of one outer edge and its holes, smoothed and thinned out."""
    least = np.pi / 4 * trace.least_mm**2
    # Smoothing gives each ring its size back: what is too small now stays so.
    large = _sizes_of(points, np.diff(starts)) * math.prod(cell_mm) >= _SURELY * least
    if not large[0]:
        return []
    rings = [
        points[a:b] for (a, b), one in zip(pairwise(starts), large, strict=True) if one
    ]
    drawn = [_drawn(ring, origin, cell_mm, trace) for ring in rings]
    kept = [ring for ring in drawn if ring is not None and Polygon(ring).area >= least]
    if not kept or drawn[0] is None or Polygon(drawn[0]).area < least:
        return []
    fine = _thinned(Polygon(kept[0], kept[1:]), _FINE_DOTS * min(cell_mm))
    sound = fine if fine.is_valid else fine.buffer(0)
    return [one for one in getattr(sound, "geoms", [sound]) if isinstance(one, Polygon)]


def _thinned(area: Polygon, fine_mm: float) -> Polygon | MultiPolygon:
    """Return an area without the points that lie on its edges to within a distance.

    Line by line (Douglas & Peucker 1973); only where that lets edges cross that did not,
    each is held against all the others, which takes ten times as long.
    """
    thin = shapely.simplify(area, fine_mm, preserve_topology=False)
    alike = isinstance(thin, Polygon) and not thin.is_empty and thin.is_valid
    if alike or not area.is_valid:
        return thin
    return shapely.simplify(area, fine_mm)


def kept_areas(
    mask: NDArray[np.uint8], cell_mm: tuple[float, float], trace: TracePart
) -> MultiPolygon:
    """Return the areas that a mask keeps, their edges drawn as for `traced`."""
    whole = TracePart(
        smooth_mm=trace.smooth_mm, least_mm=trace.least_mm, corner_deg=trace.corner_deg
    )
    return traced(255 - mask, cell_mm, whole).areas


def _found(
    field: NDArray[np.float32], trace: TracePart
) -> list[tuple[NDArray[np.float64], NDArray[np.uint32]]]:
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
    x = (ring[:, 0] + origin[0]) * along
    y = -(ring[:, 1] + origin[1]) * pitch
    points = np.stack([x, y], axis=1)[:-1]
    smooth = smoothed(points, trace.smooth_mm, trace.corner_deg, _STEP_DOTS * min(cell_mm))
    if len(smooth) < 3:
        return None
    return _as_large(smooth, _area_of(points), most_mm=trace.smooth_mm)


def _next(ring: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return of each point the one after it; a third of the time `numpy.roll` takes."""
    return np.concatenate((ring[1:], ring[:1]))


def _area_of(ring: NDArray[np.float64]) -> float:
    """Return the signed area a ring goes round, counter-clockwise above 0."""
    x, y = (ring - ring.mean(axis=0)).T
    return float(x @ _next(y) - y @ _next(x)) / 2


def _as_large(
    ring: NDArray[np.float64], area: float, most_mm: float
) -> NDArray[np.float64]:
    """Return a ring moved along its normals until it goes round an area.

    Smoothing draws a curve of radius r towards its middle by r (1 − exp(−σ²/2r²)):
    the smaller it is, the more.
    """
    for _ in range(_TRIES):
        ahead = _next(ring) - np.concatenate((ring[-1:], ring[:-1]))
        long = np.maximum(np.hypot(*ahead.T), 1e-12)
        around = np.hypot(*(_next(ring) - ring).T).sum()
        missing = area - _area_of(ring)
        if around <= 0 or abs(missing) <= _EXACT * abs(area):
            break
        out = np.stack([ahead[:, 1], -ahead[:, 0]], axis=1) / long[:, None]
        ring = ring + out * np.clip(missing / around, -most_mm, most_mm)
    return ring


def smoothed(
    points: NDArray[np.float64], smooth_mm: float, corner_deg: float, step_mm: float
) -> NDArray[np.float64]:
    """Return a closed line smoothed along itself; sharp corners stay where they are.

    Parameters
    ----------
    points : ndarray, shape (n, 2)
        Its points; the last one is joined to the first.
    smooth_mm : float
        Standard deviation of the Gaussian along the line.
    corner_deg : float
        Where it turns by more over twice that length, it has a corner.
    step_mm : float
        Distance of the points returned.
    """
    even = _evenly(points, step_mm)
    sigma = smooth_mm / step_mm
    if sigma < 0.3 or len(even) < 8:
        return points
    corners = _corners(even, max(round(2 * sigma), _LEAST_REACH), corner_deg)
    even = _sharpened(even, corners, step_mm)
    if not len(corners):
        return _wrapped(even, sigma)
    turned = np.roll(even, -corners[0], axis=0)
    cuts = [*(corners - corners[0]), len(even)]
    closed = np.concatenate([turned, turned[:1]])
    pieces = [_between_corners(closed[a : b + 1], sigma)[:-1] for a, b in pairwise(cuts)]
    return np.concatenate(pieces)


def _evenly(points: NDArray[np.float64], step_mm: float) -> NDArray[np.float64]:
    closed = np.concatenate([points, points[:1]])
    long = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    count = max(int(long[-1] / step_mm), 3)
    at = np.linspace(0, long[-1], count, endpoint=False)
    return np.stack([np.interp(at, long, closed[:, axis]) for axis in (0, 1)], axis=1)


def _corners(
    points: NDArray[np.float64], reach: int, corner_deg: float
) -> NDArray[np.intp]:
    """Return where a line turns most sharply, nowhere two within `reach`."""
    reach = min(reach, len(points) // 3)
    before = points - np.roll(points, reach, axis=0)
    after = np.roll(points, -reach, axis=0) - points
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    turn = np.abs(np.degrees(np.arctan2(cross, (before * after).sum(axis=1))))
    sharpest = scipy.ndimage.maximum_filter1d(turn, 2 * reach + 1, mode="wrap")
    peaks = np.flatnonzero((turn == sharpest) & (turn > corner_deg))
    # On a plateau several are the sharpest; the first one stands for it.
    apart = np.diff(peaks, prepend=peaks[-1:] - len(points)) > reach
    return peaks[apart] if apart.any() else peaks[:1]


def _sharpened(
    points: NDArray[np.float64], corners: NDArray[np.intp], step_mm: float
) -> NDArray[np.float64]:
    """Return a line whose corners, cut off by the dots, are where its sides would meet.

    A corner between dots is blunt by half a dot; it is moved by at most one.
    """
    out, count = points.copy(), len(points)
    for at in corners:
        side = [points[(at + way * np.arange(3, 7)) % count] for way in (-1, 1)]
        meet = _meeting(*side)
        if meet is None or math.dist(meet, points[at]) > _MOST_MOVED * step_mm:
            continue
        for way, line in zip((-1, 1), side, strict=True):
            for k in (1, 2):
                out[(at + way * k) % count] = meet + (line[0] - meet) * (k / 3)
        out[at] = meet
    return out


def _meeting(
    one: NDArray[np.float64], other: NDArray[np.float64]
) -> NDArray[np.float64] | None:
    """Return where the lines through two rows of points meet."""
    p, u, q, v = one[0], one[-1] - one[0], other[0], other[-1] - other[0]
    cross = u[0] * v[1] - u[1] * v[0]
    if abs(cross) < 0.1 * math.hypot(*u) * math.hypot(*v):
        return None
    along = ((q[0] - p[0]) * v[1] - (q[1] - p[1]) * v[0]) / cross
    return np.asarray(p + along * u)


def _wrapped(line: NDArray[np.float64], sigma: float) -> NDArray[np.float64]:
    turns = int(_REACH * sigma / len(line)) + 1
    whole = np.concatenate([line] * (2 * turns + 1))
    return _gauss(whole, sigma)[turns * len(line) : (turns + 1) * len(line)]


def _between_corners(line: NDArray[np.float64], sigma: float) -> NDArray[np.float64]:
    """Return an open line smoothed; its ends stay, and beyond them it goes on turned."""
    if len(line) < 4:
        return line
    wide = min(int(_REACH * sigma) + 1, len(line) - 1)
    before = 2 * line[0] - line[wide:0:-1]
    after = 2 * line[-1] - line[-2 : -2 - wide : -1]
    smooth = _gauss(np.concatenate([before, line, after]), sigma)[wide : wide + len(line)]
    smooth[0], smooth[-1] = line[0], line[-1]
    return smooth


def _gauss(line: NDArray[np.float64], sigma: float) -> NDArray[np.float64]:
    reach = int(_REACH * sigma) + 1
    blurred = cv2.GaussianBlur(
        line[:, None, :], (1, 2 * reach + 1), sigmaX=1, sigmaY=sigma,
        borderType=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    return np.asarray(blurred, np.float64)[:, 0, :]
