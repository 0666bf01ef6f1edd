"""Where the beam pierces beside a closed line, so that no mark is left on the edge."""

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import LineString, Polygon, STRtree

_PLACES = 48
_CLEAR_MM = 0.01
_SHORTER = (1.0, 0.5, 0.25)


class Surroundings:
    """What a lead-in must keep clear of.

    Parameters
    ----------
    bodies : sequence of Polygon
        What stays of the material.
    lines : sequence of LineString
        All lines that are cut.
    kerf_mm : float
        Width of the cut.
    """

    def __init__(
        self, bodies: Sequence[Polygon], lines: Sequence[LineString], kerf_mm: float
    ) -> None:
        self._bodies = STRtree(list(bodies))
        self._lines = STRtree(list(lines))
        self._room = max(kerf_mm / 2 - _CLEAR_MM, 1e-6)

    def clear(self, segments: NDArray[np.object_]) -> NDArray[np.bool_]:
        """Return which segments meet neither a body nor a cut line."""
        free = np.ones(len(segments), bool)
        if len(self._bodies):
            near = self._bodies.query(segments, predicate="dwithin", distance=self._room)
            free[near[0]] = False
        free[self._lines.query(segments, predicate="intersects")[0]] = False
        return free


def starts(
    line: LineString, lead_mm: float, around: Surroundings, *, scrap_inside: bool
) -> list[tuple[float, NDArray[np.float64]]]:
    """Return where a closed line can be begun, and from where the beam comes.

    Parameters
    ----------
    line : LineString
        Closed.
    lead_mm : float
        Length of the lead-in, square to the line, on the scrap's side. Where
        there is no room for it, it is half or a quarter as long.
    scrap_inside : bool
        Whether what lies within the line falls out.

    Returns
    -------
    list of (float, ndarray)
        Distance along the line, and the point of piercing, shape (2,). Empty
        where there is no room at all.
    """
    long = line.length
    at = (np.arange(_PLACES) + 0.5) / _PLACES * long
    step = min(1e-3 * long, 1e-3)
    here = shapely.get_coordinates(shapely.line_interpolate_point(line, at))
    ahead = shapely.get_coordinates(shapely.line_interpolate_point(line, at + step))
    along = (ahead - here) / np.maximum(np.hypot(*(ahead - here).T), 1e-12)[:, None]
    left = np.stack([-along[:, 1], along[:, 0]], axis=1)
    way = 1 if bool(shapely.is_ccw(line)) == scrap_inside else -1
    for share in _SHORTER:
        pierce = here + way * left * lead_mm * share
        # The lead-in ends on the line itself, so its last bit is not looked at.
        close = here + way * left * min(_CLEAR_MM * 2, lead_mm * share / 2)
        free = around.clear(shapely.linestrings(np.stack([pierce, close], axis=1)))
        if free.any():
            return [(float(a), p) for a, p in zip(at[free], pierce[free], strict=True)]
    return []


def piece_lead(
    piece: LineString, lead_mm: float, around: Surroundings, *, left: bool
) -> NDArray[np.float64] | None:
    """Return where the beam pierces before an open piece of a line; None without room."""
    points = np.asarray(piece.coords)
    along = points[1] - points[0]
    along = along / max(float(np.hypot(*along)), 1e-12)
    side = np.array([-along[1], along[0]]) * (1 if left else -1)
    for share in _SHORTER:
        pierce = points[0] + side * lead_mm * share
        close = points[0] + side * min(_CLEAR_MM * 2, lead_mm * share / 2)
        if around.clear(shapely.linestrings(np.stack([pierce, close])[None]))[0]:
            return np.asarray(pierce)
    return None
