"""Areas moved outward, each by itself, and what that did to them."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import Polygon, STRtree

_QUARTER = 24
_TOUCH_MM2 = 1e-6
_SLACK_MM = 1e-6


@dataclass(frozen=True)
class Grown:
    """Areas after their outline was moved.

    Attributes
    ----------
    areas : sequence of Polygon
    gaps : int
        Pairs of areas that lie closer than the cut is wide.
    nearest_mm : float
        The narrowest of these gaps; 0 where areas touch.
    vanished : int
        Areas and holes that were too narrow, and have no line any more.
    """

    areas: Sequence[Polygon] = ()
    gaps: int = 0
    nearest_mm: float = 0.0
    vanished: int = 0

    def after(self, earlier: "Grown") -> "Grown":
        """Return this with what was lost before it."""
        return replace(self, vanished=self.vanished + earlier.vanished)


def grown(areas: Sequence[Polygon], out_mm: float, *, kerf_mm: float) -> Grown:
    """Return areas whose edges were moved outward, negative inward.

    Each keeps its own line, also where two come so close that the lines cross:
    one is never moved into the other's body, so each loses half a kerf at most.

    Parameters
    ----------
    kerf_mm : float
        Width of the cut; areas closer than that are counted.
    """
    if not out_mm or not areas:
        return Grown(list(areas))
    moved = shapely.buffer(np.array(areas, dtype=object), out_mm, quad_segs=_QUARTER)
    pairs = _close(areas, kerf_mm) if kerf_mm else []
    # Each by itself: one that fell apart makes up for none that vanished.
    lost = sum(
        max(_rings([area]) - _rings(_polygons(shape)), 0)
        for area, shape in zip(areas, moved, strict=True)
    )
    for one, other, _ in pairs if out_mm > 0 else []:
        moved[one] = shapely.difference(moved[one], areas[other])
        moved[other] = shapely.difference(moved[other], areas[one])
    parts = [part for shape in moved for part in _polygons(shape)]
    nearest = min((gap for _, _, gap in pairs), default=0.0)
    return Grown(parts, len(pairs), nearest, lost)


def _polygons(shape: shapely.Geometry) -> list[Polygon]:
    return [
        part
        for part in shapely.get_parts(shape)
        if isinstance(part, Polygon) and not part.is_empty
    ]


def _close(areas: Sequence[Polygon], kerf_mm: float) -> list[tuple[int, int, float]]:
    """Return pairs of areas closer than a kerf that do not cross, and their distance."""
    tree = STRtree(areas)
    one, other = tree.query(areas, predicate="dwithin", distance=kerf_mm - _SLACK_MM)
    return [
        (a, b, areas[a].distance(areas[b]))
        for a, b in zip(one.tolist(), other.tolist(), strict=True)
        if a < b and areas[a].intersection(areas[b]).area <= _TOUCH_MM2
    ]


def _rings(areas: Sequence[Polygon]) -> int:
    return sum(1 + len(one.interiors) for one in areas)
