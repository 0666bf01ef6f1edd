"""What is shown of the operations of a job, in their order."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon
from shapely.affinity import scale

from engraving.check import Facts, Finding, rules_of
from engraving.errors import EngravingError
from engraving.geometry.polygons import area_path, path_data
from engraving.jobspec import JobSpec, OperationPart
from engraving.motion import clock_of
from engraving.outline import (
    Bridge,
    Followed,
    candidates,
    outline_shape,
    ring_as_burned,
    rings_of,
    without,
)
from engraving.place import piece_box
from workshop.jobs.pictures.engine import pipeline
from workshop.shell.services import in_shown_unit, show_length

KIND_WORDS = {
    "raster": "Picture", "hatch": "Hatch", "inside": "Carved inside", "score": "Score",
    "cut": "Cut",
}  # fmt: skip

_COUNTED = {
    "hatch": ("hatch", "hatches"), "inside": ("carving", "carvings"),
    "score": ("score", "scores"), "cut": ("cut", "cuts"),
}  # fmt: skip

SHAPE_WORDS = {
    "rectangle": "round the picture",
    "rounded": "round the picture",
    "blank": "round the blank",
    "picture": "round the mask",
    "traced": "traced",
    "lettering": "the lettering",
    "drawn": "drawn",
}


MOST_RINGS = 500
"""So many rings can be pressed; smaller ones are only drawn."""


@dataclass(frozen=True)
class Outline:
    """An operation's lines as they are seen, in mm from the picture's middle, y down.

    ``frame`` is left, top, width and height, ``edge`` its rightmost point, ``start``
    where it begins; ``pierce`` is where its lead-in begins, if it has one.
    """

    data: str = ""
    frame: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    edge: tuple[float, float] = (0.0, 0.0)
    start: tuple[float, float] = (0.0, 0.0)
    pierce: tuple[float, float] = (0.0, 0.0)
    bridges: tuple[Bridge, ...] = ()


@dataclass(frozen=True)
class OperationRow:
    """An operation on the list: its words, lines, size in mm, time in s, what is drawn."""

    at: int
    part: OperationPart
    name: str
    says: str
    size: tuple[float, float] = (0.0, 0.0)
    lines: int = 0
    seconds: float = 0.0
    drawn: Outline = Outline()

    @property
    def recipe(self) -> str:
        """Its recipe and version; empty where it was set by hand."""
        one = self.part
        return f"{one.recipe}, v{one.recipe_version}" if one.recipe else ""


@dataclass(frozen=True)
class RingFacts:
    """A ring that can be used or left out: SVG path data, a point in it, mm²."""

    data: str
    point: str
    used: bool
    area: float


@dataclass(frozen=True)
class OperationList:
    """The operations in their order, and the one that is open."""

    rows: list[OperationRow]
    looked: int
    chosen: OperationPart
    rings: list[RingFacts]
    all_rings: int
    specks: int
    told: list[str]
    included: int
    outlines: int

    @property
    def open(self) -> OperationRow:
        """The operation that is open."""
        return self.rows[self.looked]

    @property
    def corners(self) -> list[tuple[str, float, float]]:
        """Name and place of the corners of the open operation's frame."""
        left, top, wide, high = self.open.drawn.frame
        return [
            (f"{down}{across}", left + wide * across, top + high * down)
            for down in (0, 1)
            for across in (0, 1)
        ]


def operation_rows(spec: JobSpec) -> list[OperationRow]:
    """Return the operations in their order."""
    return [_row(spec, at, one) for at, one in enumerate(spec.operations)]


def timed_rows(spec: JobSpec) -> list[OperationRow]:
    """Return the operations that are done, with their times in the job's whole path."""
    found = pipeline().estimate(spec).operation_s
    return [
        replace(row, seconds=found[row.at])
        for row in operation_rows(spec)
        if row.at in found
    ]


def operations_facts(spec: JobSpec, looked: int) -> OperationList:
    """Return the rows of the list, and of the open one the rings to choose from.

    Parameters
    ----------
    looked : int
        The operation whose settings are open.
    """
    rows = [_timed(spec, row) for row in operation_rows(spec)]
    looked = looked if 0 <= looked < len(rows) else 0
    one = spec.operations[looked]
    shown, all_rings = _rings(spec, one)
    return OperationList(
        rows=rows,
        looked=looked,
        chosen=one,
        rings=shown,
        all_rings=all_rings,
        specks=pipeline().specks_dropped(spec, one) if one.shape == "traced" else 0,
        told=_told(spec, looked),
        included=sum(row.part.on for row in rows),
        outlines=len(spec.outlines),
    )


def _told(spec: JobSpec, at: int) -> list[str]:
    """Return what following an operation's shapes met with, a sentence each."""
    one = spec.operations[at]
    if one.kind == "raster":
        return []
    facts = Facts(spec, outlines={at: pipeline().followed(spec, one).told})
    found = [rule(facts) for rule in rules_of("outlines")]
    return [
        f"{each.sentence.rstrip('.')}: {in_shown_unit(each.figure)}."
        for each in found
        if isinstance(each, Finding)
    ]


def operation_times(spec: JobSpec) -> list[tuple[str, float]]:
    """Return name and seconds of each operation that is done, in their order."""
    found = pipeline().estimate(spec).operation_s
    return [
        (f"{at + 1} {one.name or KIND_WORDS[one.kind]}", found[at])
        for at, one in enumerate(spec.operations)
        if at in found
    ]


def outlines_result(spec: JobSpec) -> str:
    """Say in a few words what is done beside the picture."""
    counts = Counter[str](one.kind for one in spec.operations if one.on)
    if spec.mount.rotary or set(counts) == {"raster"}:
        return "The picture alone"
    parts = [
        KIND_WORDS[kind] if kind == "raster" else f"{number} {_COUNTED[kind][number > 1]}"
        for kind in KIND_WORDS
        if (number := counts[kind])
    ]
    return ", ".join(parts) or "Nothing is included"


def operation_values(spec: JobSpec, looked: int) -> dict[str, Any]:
    """Return what an operation's form shows."""
    one = spec.operations[looked]
    trace = one.trace
    shift = 100 * one.bridge_shift
    wide, high = spec.size.width_mm, spec.size.height_mm
    values = one.model_dump(exclude={"trace", "drawing", "left_out", "recipe", "tool"})
    return {
        **values,
        "bridge_shift": shift,
        **trace.model_dump(include={"lightest", "darkest", "smooth_mm", "least_mm"}),
        "trace_corner": trace.corner_deg,
        "part_left": trace.left * wide,
        "part_top": trace.top * high,
        "part_width": trace.width * wide,
        "part_height": trace.height * high,
        "recipe": None,
        "tool_deg": (one.tool or spec.marking.carving.tool).angle_deg,
    }


def _row(spec: JobSpec, at: int, one: OperationPart) -> OperationRow:
    name = one.name or KIND_WORDS[one.kind]
    if one.kind == "raster":
        says = f"{spec.burn.speed_mm_s:g} mm/s"
        if not spec.machine.touches:
            says = f"{spec.burn.power:g} %, {says}"
        return OperationRow(at, one, name, says)
    found = pipeline().followed(spec, one)
    paths = found.paths
    shape = SHAPE_WORDS[one.shape]
    if not paths:
        return OperationRow(at, one, name, f"{shape}, nothing found")
    wide, high = np.ptp(np.concatenate(paths), axis=0).tolist()
    how = f"{one.speed_mm_s:g} mm/s"
    if one.kind == "inside":
        try:
            deepest = pipeline().inside(spec, one).deepest_mm
        except EngravingError as error:
            return OperationRow(at, one, name, error.message)
        how = f"to {show_length(deepest, 2)} deep, {how}"
    elif not spec.machine.touches:
        how = f"{one.power:g} %, {how}"
    return OperationRow(
        at,
        one,
        name,
        says=f"{shape}, {how}",
        size=(wide, high),
        lines=len(paths),
        drawn=_drawn(spec, one, found),
    )


def _timed(spec: JobSpec, row: OperationRow) -> OperationRow:
    """Return a row of outlines with its time; what cannot be followed says why."""
    if not row.lines:
        return row
    clock = clock_of(spec)
    try:
        for moves in pipeline().operation_moves(spec, row.part):
            clock.add(moves)
    except EngravingError as error:
        return OperationRow(row.at, row.part, row.name, error.message)
    return replace(row, seconds=clock.seconds)


def _drawn(spec: JobSpec, one: OperationPart, found: Followed) -> Outline:
    """Return an operation's lines as they are seen; of a hatch its areas, to be filled."""
    middle = np.asarray(piece_box(spec.size, spec.place).middle)
    way = np.array([-1.0 if spec.mirrored else 1.0, -1.0])
    seen = [(path - middle) * way for path in found.paths]
    every = np.concatenate(seen)
    left, top = every.min(axis=0).tolist()
    wide, high = np.ptp(every, axis=0).tolist()
    first = seen[0]
    led = one.kind == "cut" and one.lead_in_mm > 0 and len(first) > 1
    if one.kind == "hatch":
        areas = outline_shape(spec, one, pipeline().areas_found(spec, one)).areas.geoms
        data = _data(areas, spec)
    else:
        data = path_data([path * (1, -1) for path in seen], deep_mm=0)
    return Outline(
        data=data,
        frame=(left, top, wide, high),
        edge=_pair(every[np.argmax(every[:, 0])]),
        start=_pair(first[1 if led else 0]),
        pierce=_pair(first[0]),
        bridges=tuple(_seen_bridge(each, spec) for each in found.bridges),
    )


def _pair(point: NDArray[np.float64]) -> tuple[float, float]:
    return float(point[0]), float(point[1])


def _seen_bridge(one: Bridge, spec: JobSpec) -> Bridge:
    across = -1.0 if spec.mirrored else 1.0
    return one._replace(
        x=across * one.x, y=-one.y, along_x=across * one.along_x, along_y=-one.along_y
    )


def _data(areas: Iterable[Polygon], spec: JobSpec) -> str:
    """Return areas as they are burned as path data of what is seen."""
    lying = MultiPolygon(list(areas))
    seen = scale(lying, -1, 1, origin=(0, 0)) if spec.mirrored else lying
    return area_path(seen, deep_mm=0)


def _rings(spec: JobSpec, one: OperationPart) -> tuple[list[RingFacts], int]:
    """Return the rings that can be used or left out, largest first, and their count."""
    if not one.placed:
        return [], 0
    areas, _ = candidates(one, pipeline().areas_found(spec, one))
    every = rings_of(areas)
    kept = {point for _, point in rings_of(without(areas, one.left_out))}
    found = sorted(every, key=lambda pair: -pair[0].area)[:MOST_RINGS]
    shown = [
        RingFacts(
            _data([ring_as_burned(spec, one, ring)], spec),
            f"{point[0]} {point[1]}",
            point in kept,
            ring.area,
        )
        for ring, point in found
    ]
    return shown, len(every)
