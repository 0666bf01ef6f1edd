"""In which order lines are followed: inside before outside, and by short ways."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import LineString, Polygon, STRtree

Path = NDArray[np.float64]
"""Points of a line, shape (n, 2), mm."""


@dataclass(frozen=True)
class Way:
    """One way to follow a line: the paths of it in their order."""

    paths: tuple[Path, ...]

    @property
    def begin(self) -> Path:
        """Where it begins, shape (2,)."""
        return np.asarray(self.paths[0][0])

    @property
    def end(self) -> Path:
        """Where it ends."""
        return np.asarray(self.paths[-1][-1])


@dataclass(frozen=True)
class Item:
    """A line and the ways to follow it.

    Attributes
    ----------
    line : LineString
        As it is drawn; closed, it holds what lies in it.
    ways : tuple of Way
        At least one.
    """

    line: LineString
    ways: tuple[Way, ...]


def ordered(items: Sequence[Item], start: tuple[float, float]) -> list[Path]:
    """Return all paths in an order: what a line holds before it, the nearest next.

    A line is followed only after all that lies within it, at any depth.
    """
    if not items:
        return []
    holders = _holders([one.line for one in items])
    held = np.zeros(len(items), np.int64)
    for inside in holders:
        held[inside] += 1
    of = np.repeat(np.arange(len(items)), [len(one.ways) for one in items])
    ways = [way for one in items for way in one.ways]
    begins = np.array([way.begin for way in ways])
    open_ = held[of] == 0
    done: list[Path] = []
    at = np.asarray(start, np.float64)
    for _ in items:
        far = np.where(open_, ((begins - at) ** 2).sum(axis=1), np.inf)
        best = int(np.argmin(far))
        item = int(of[best])
        done += ways[best].paths
        at = ways[best].end
        held[item] = -1
        held[holders[item]] -= 1
        freed = [one for one in holders[item] if held[one] == 0]
        open_[of == item] = False
        for one in freed:
            open_[of == one] = True
    return done


def _holders(lines: Sequence[LineString]) -> list[list[int]]:
    """Return which closed lines hold each line; one that touches it from inside counts."""
    closed = [
        at for at, line in enumerate(lines) if line.is_closed and len(line.coords) > 3
    ]
    found: list[list[int]] = [[] for _ in lines]
    if not closed:
        return found
    areas = [_area(lines[at]) for at in closed]
    size = {at: area.area for at, area in zip(closed, areas, strict=True)}
    tree = STRtree(areas)
    inner, outer = tree.query(list(lines), predicate="covered_by")
    for one, nth in zip(inner.tolist(), outer.tolist(), strict=True):
        holder = closed[nth]
        # Of two that hold one another, the later one counts as the outer.
        inside = (size.get(one, 0.0), one) < (size[holder], holder)
        if one != holder and inside:
            found[one].append(holder)
    return found


def _area(line: LineString) -> shapely.Geometry:
    whole = Polygon(line)
    return whole if whole.is_valid else whole.buffer(0)
