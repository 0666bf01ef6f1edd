"""From shapes to the lines the beam follows: inside before outside, bridges left out."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely import LinearRing, LineString, MultiPolygon, Polygon, STRtree
from shapely.ops import substring

from engraving.drawing import drawn_twice, lines_of
from engraving.jobspec import JobSpec, OperationPart
from engraving.outline.bridges import Bridge, bridged, bridges_of
from engraving.outline.hatch import hatch_lines
from engraving.outline.lead_in import Surroundings, piece_lead, starts
from engraving.outline.order import Item, Path, Way, ordered
from engraving.outline.shapes import Shapes, outline_shape
from engraving.outline.trace import MOST_AREAS

_CIRCLE = 64
_SHARED_MM = 0.02
_GRID_MM = 1e-4
_MOST_WAYS = 24


@dataclass(frozen=True)
class FollowNotes:
    """What following an operation's shapes met with.

    Attributes
    ----------
    merged : int
        Lines that lie on another one and are cut once.
    closed : int
        Gaps between loose ends that were closed.
    gaps : int
        Pairs of parts that lie closer than the kerf is wide.
    nearest_mm : float
        The narrowest of these gaps.
    vanished : int
        Outlines too narrow for their offset or kerf, which have no line.
    unbridged : int
        Outlines too short for their bridges, which are cut loose.
    no_lead : int
        Outlines beside which there is no room for a lead-in.
    capped : int
        So many areas were traced, and smaller ones left out; 0 where all were.
    hole_off : bool
        Whether the hole to hang it by does not lie in the material.
    """

    merged: int = 0
    closed: int = 0
    gaps: int = 0
    nearest_mm: float = 0.0
    vanished: int = 0
    unbridged: int = 0
    no_lead: int = 0
    capped: int = 0
    hole_off: bool = False


@dataclass(frozen=True)
class Followed:
    """The lines of one pass on the bed in burning order, and what was met with.

    Bridges lie about the picture's middle, as they are burned.
    """

    paths: list[Path]
    told: FollowNotes
    bridges: tuple[Bridge, ...] = ()


@dataclass(frozen=True)
class _Edge:
    """A line to follow; closed ones with the side on which the scrap lies."""

    line: LineString
    closed: bool = False
    scrap_inside: bool = False
    bridges: int = 0


def follow(
    spec: JobSpec, operation: OperationPart, found: MultiPolygon | None = None
) -> Followed:
    """Return the lines of one pass of an operation on the bed, and what was met with.

    A line is followed after all that lies within it, at any depth of nesting,
    and the nearest one next. Lines drawn twice are cut once.
    """
    shapes = outline_shape(spec, operation, found)
    middle = np.array([
        spec.place.x_mm + spec.size.width_mm / 2, spec.place.y_mm + spec.size.height_mm / 2,
    ])  # fmt: skip
    capped = MOST_AREAS if found is not None and len(found.geoms) >= MOST_AREAS else 0
    told = FollowNotes(
        capped=capped,
        merged=shapes.merged, closed=shapes.closed, gaps=shapes.offset.gaps,
        nearest_mm=shapes.offset.nearest_mm, vanished=shapes.offset.vanished,
    )  # fmt: skip
    if operation.kind == "hatch":
        lines = hatch_lines(
            shapes.solid, operation.spacing_mm, operation.hatch_deg,
            cross=operation.cross,
        )  # fmt: skip
        return Followed(list(lines + middle), told)
    edges = list(_edges(shapes, operation))
    hole, off = _hole(operation, shapes.bodies)
    told = replace(told, hole_off=off)
    if hole is not None:
        edges.append(_Edge(hole, closed=True, scrap_inside=True))
    if operation.kind == "cut":
        edges, told = _once(edges, told)
    items, told = _items(edges, shapes, operation, told)
    return Followed(
        [path + middle for path in ordered(items, tuple(-middle))],
        told,
        tuple(
            one
            for edge in edges
            for one in bridges_of(edge.line, *_bridging(edge, operation))
        ),
    )


def _edges(shapes: Shapes, operation: OperationPart) -> Iterator[_Edge]:
    for line in shapes.lines:
        yield _Edge(line)
    for one in shapes.areas.geoms:
        bridges = operation.bridges if operation.kind == "cut" else 0
        yield _Edge(_plain(one.exterior), closed=True, bridges=bridges)
        for ring in one.interiors:
            yield _Edge(_plain(ring), closed=True, scrap_inside=True)


def _plain(ring: LinearRing) -> LineString:
    return LineString(ring.coords)


def _hole(operation: OperationPart, bodies: MultiPolygon) -> tuple[LineString | None, bool]:
    """Return the line of the hole to hang it by, and whether it lies off the material."""
    if not operation.hole_mm or bodies.is_empty:
        return None, False
    body = max(bodies.geoms, key=lambda one: one.area)
    left, _, right, high = body.bounds
    radius = (operation.hole_mm - operation.kerf_mm) / 2
    x, y = (left + right) / 2, high - operation.hole_inset_mm
    if radius <= 0:
        return None, True
    turn = np.linspace(0, 2 * math.pi, _CIRCLE + 1)
    turn[-1] = 0.0
    points = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    open_ = Polygon(points * (operation.hole_mm / 2) + (x, y))
    return LineString(points * radius + (x, y)), not body.contains_properly(open_)


def _once(edges: list[_Edge], told: FollowNotes) -> tuple[list[_Edge], FollowNotes]:
    """Return edges of which no stretch is cut twice, and how many were merged."""
    twice = set(drawn_twice([one.line for one in edges]))
    left = [one for at, one in enumerate(edges) if at not in twice]
    return left, replace(told, merged=told.merged + len(twice))


def _items(
    edges: list[_Edge], shapes: Shapes, operation: OperationPart, told: FollowNotes
) -> tuple[list[Item], FollowNotes]:
    kerf = operation.kerf_mm if operation.kind == "cut" else 0.0
    lead = operation.lead_in_mm if operation.kind == "cut" else 0.0
    around = Surroundings(shapes.bodies.geoms, [one.line for one in edges], kerf)
    tree = STRtree([one.line for one in edges])
    items, no_lead, unbridged, shared = [], 0, 0, 0
    for at, edge in enumerate(edges):
        pieces = [edge.line]
        if edge.bridges:
            pieces = bridged(edge.line, *_bridging(edge, operation))
        whole = pieces[0] is edge.line
        unbridged += whole and edge.bridges > 0
        apart = edge.closed and whole
        if operation.kind == "cut":
            earlier = _shared(at, edge, tree)
            if earlier is not None:
                pieces, shared, apart = _less(pieces, earlier), shared + 1, False
        if not pieces:
            continue
        if apart:
            ways, led = _round(edge, lead, around)
        else:
            ways, led = _along(pieces, edge, lead, around)
        no_lead += not led
        items.append(Item(edge.line, tuple(ways)))
    told = replace(told, no_lead=no_lead, unbridged=unbridged, merged=told.merged + shared)
    return items, told


def _bridging(edge: _Edge, operation: OperationPart) -> tuple[int, float, float, float]:
    """Return count, width, kerf and shift of an edge's bridges."""
    shift = operation.bridge_shift
    return edge.bridges, operation.bridge_mm, operation.kerf_mm, shift


def _round(edge: _Edge, lead_mm: float, around: Surroundings) -> tuple[list[Way], bool]:
    """Return ways round a closed line, and whether they lead in as wanted."""
    if lead_mm:
        found = starts(edge.line, lead_mm, around, scrap_inside=edge.scrap_inside)
        if found:
            return [
                Way((np.concatenate([pierce[None], _begun_at(edge.line, at)]),))
                for at, pierce in found
            ], True
    points = np.asarray(edge.line.coords)[:-1]
    every = max(1, len(points) // _MOST_WAYS)
    return [
        Way((np.concatenate([np.roll(points, -k, axis=0), points[k][None]]),))
        for k in range(0, len(points), every)
    ], not lead_mm


def _begun_at(line: LineString, at: float) -> Path:
    """Return the points of a closed line, begun so far along it."""
    first = np.asarray(substring(line, at, line.length).coords)
    return np.concatenate([first, np.asarray(substring(line, 0, at).coords)[1:]])


def _along(
    pieces: Sequence[LineString], edge: _Edge, lead_mm: float, around: Surroundings
) -> tuple[list[Way], bool]:
    """Return ways along open pieces, and whether all lead in as wanted."""
    paths, led = [], True
    for piece in pieces:
        points = np.asarray(piece.coords)
        if lead_mm and edge.closed:
            left = bool(shapely.is_ccw(edge.line)) == edge.scrap_inside
            pierce = piece_lead(piece, lead_mm, around, left=left)
            led = led and pierce is not None
            points = points if pierce is None else np.concatenate([pierce[None], points])
        paths.append(points)
    ways = [Way((*paths[k:], *paths[:k])) for k in range(len(paths))]
    if not (lead_mm and edge.closed):
        ways += [Way(tuple(path[::-1] for path in reversed(way.paths))) for way in ways]
    return ways, led


def _shared(at: int, edge: _Edge, tree: STRtree) -> shapely.Geometry | None:
    """Return earlier lines of which some length lies on this one."""
    near = [k for k in tree.query(edge.line, predicate="intersects").tolist() if k < at]
    if not near:
        return None
    earlier = shapely.union_all([tree.geometries[k] for k in near])
    same = shapely.intersection(edge.line, earlier, grid_size=_GRID_MM)
    return earlier if same.length > _SHARED_MM else None


def _less(pieces: Sequence[LineString], gone: shapely.Geometry) -> list[LineString]:
    """Return what of some lines does not lie on others."""
    left = (shapely.difference(piece, gone, grid_size=_GRID_MM) for piece in pieces)
    return [line for one in left for line in lines_of(one, _SHARED_MM)]
