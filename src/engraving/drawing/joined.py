"""Loose ends that meet, and lines that were drawn twice."""

import math
from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
import scipy
import shapely
from numpy.typing import NDArray
from shapely import LinearRing, LineString, STRtree

from engraving.drawing.paths import DrawnPath, Points

JOIN_MM = 0.05
"""Ends no farther apart are one point (common practice, no source)."""
SAME_MM = 0.005
"""Lines nowhere farther apart are the same line."""
_EXACT_MM = 1e-3


def joined(
    paths: Sequence[DrawnPath], within_mm: float = JOIN_MM
) -> tuple[list[DrawnPath], int]:
    """Return paths with their loose ends joined, and how many gaps were closed.

    Two ends that lie so near one another, and no third one by them, are one point.
    A joined line takes the place of its first part.
    """
    loose = [at for at, path in enumerate(paths) if not path.closed]
    if not loose:
        return list(paths), 0
    lines = [paths[at].points for at in loose]
    ends = np.concatenate([line[[0, -1]] for line in lines])
    met = _met(ends, lines, max(within_mm, _EXACT_MM))
    gaps = {
        end: math.dist(ends[end], ends[other]) for end, other in met.items() if end < other
    }
    made: dict[int, DrawnPath] = {}
    gone: set[int] = set()
    for start in range(len(loose)):
        if start in gone:
            continue
        points, chain, closed = _walked(start, lines, met)
        gone.update(chain)
        made[loose[min(chain)]] = replace(paths[loose[start]], points=points, closed=closed)
    whole = [
        made.get(at, path) for at, path in enumerate(paths) if path.closed or at in made
    ]
    return whole, sum(gap > _EXACT_MM for gap in gaps.values())


def _met(
    ends: NDArray[np.float64], lines: Sequence[Points], within: float
) -> dict[int, int]:
    """Return which end lies at which other; end 2k begins line k, 2k + 1 ends it."""
    near = scipy.spatial.cKDTree(ends).query_pairs(within, output_type="ndarray")
    if not len(near):
        return {}
    ones = np.ones(len(near), np.int8)
    graph = scipy.sparse.coo_array(
        (ones, (near[:, 0], near[:, 1])), shape=(len(ends), len(ends))
    )
    _, group = scipy.sparse.csgraph.connected_components(graph, directed=False)
    order = np.argsort(group, kind="stable")
    _, first, count = np.unique(group[order], return_index=True, return_counts=True)
    found: dict[int, int] = {}
    for at in first[count == 2]:
        one, other = int(order[at]), int(order[at + 1])
        if one // 2 == other // 2 and LineString(lines[one // 2]).length < 4 * within:
            continue  # a speck, not a ring
        found[one], found[other] = other, one
    return found


def _walked(
    start: int, lines: Sequence[Points], met: dict[int, int]
) -> tuple[Points, set[int], bool]:
    """Return the line that a part belongs to, the parts in it, and whether it closes."""
    end = 2 * start
    while end in met:  # back to where it begins, or once round
        end = met[end] ^ 1
        if end == 2 * start:
            break
    closed = end in met
    first = end
    chain: list[int] = []
    parts: list[Points] = []
    while True:
        line, backward = end // 2, end % 2
        chain.append(line)
        points = lines[line][::-1] if backward else lines[line]
        parts.append(points if not parts else points[1:])
        end ^= 1
        if end not in met or met[end] == first:
            break
        end = met[end]
    points = np.concatenate(parts)
    return (points[:-1] if closed else points), set(chain), closed


def merged(paths: Sequence[DrawnPath]) -> tuple[list[DrawnPath], int]:
    """Return paths without those drawn before, and how many these are."""
    lines = [
        LinearRing(one.points) if one.closed else LineString(one.points) for one in paths
    ]
    twice = set(drawn_twice(lines))
    return [one for at, one in enumerate(paths) if at not in twice], len(twice)


def drawn_twice(lines: Sequence[LineString]) -> list[int]:
    """Return the places of lines that lie on an earlier one along all of their length."""
    if not lines:
        return []
    boxes, long = shapely.bounds(lines), shapely.length(lines)
    tree = STRtree(lines)
    found = []
    first, second = tree.query(
        shapely.box(*(boxes + np.array([-1, -1, 1, 1]) * SAME_MM).T), predicate="intersects"
    )
    for one, other in sorted(zip(second.tolist(), first.tolist(), strict=True)):
        if (
            one < other
            and np.abs(boxes[one] - boxes[other]).max() <= SAME_MM
            and abs(long[one] - long[other]) <= 0.01 * long[one] + SAME_MM
            and _same(lines[one], lines[other])
        ):
            found.append(other)
    return sorted(set(found))


def _same(one: LineString, other: LineString) -> bool:
    return bool(
        shapely.hausdorff_distance(one, other) <= SAME_MM
        or (
            all(other.dwithin(point, SAME_MM) for point in _points(one))
            and all(one.dwithin(point, SAME_MM) for point in _points(other))
        )
    )


def _points(line: LineString) -> NDArray[np.object_]:
    ends = np.array(line.coords)
    middles = [(np.array(a) + b) / 2 for a, b in pairwise(ends)]
    return np.asarray(shapely.points(np.concatenate([ends, middles])))
