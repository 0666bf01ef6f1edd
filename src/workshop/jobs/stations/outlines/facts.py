"""What the Place station shows of the operations of a job, in their order."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon
from shapely.affinity import translate

from engraving.check import Facts, Finding, rules_of
from engraving.errors import EngravingError
from engraving.geometry.polygons import area_path, path_data
from engraving.jobspec import JobSpec, OperationPart
from engraving.motion import clock_of
from engraving.outline import (
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
class OperationRow:
    """An operation on the list: its words, lines, size in mm, time in s, SVG path data."""

    at: int
    part: OperationPart
    name: str
    says: str
    size: tuple[float, float] = (0.0, 0.0)
    lines: int = 0
    seconds: float = 0.0
    data: str = ""


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
    told: list[str]
    included: int
    outlines: int


def operations_facts(spec: JobSpec, looked: int) -> OperationList:
    """Return the rows of the list, what is drawn on the bed, and the rings to choose from.

    Parameters
    ----------
    looked : int
        The operation whose settings are open.
    """
    rows = [_row(spec, at, one) for at, one in enumerate(spec.operations)]
    looked = looked if 0 <= looked < len(rows) else 0
    one = spec.operations[looked]
    shown, all_rings = _rings(spec, one)
    return OperationList(
        rows=rows,
        looked=looked,
        chosen=one,
        rings=shown,
        all_rings=all_rings,
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


def operation_values(spec: JobSpec, looked: int) -> dict[str, Any]:
    """Return what an operation's form shows."""
    one = spec.operations[looked]
    trace = one.trace
    wide, high = spec.size.width_mm, spec.size.height_mm
    values = one.model_dump(exclude={"trace", "drawing", "left_out", "recipe", "tool"})
    return {
        **values,
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
    paths = pipeline().followed(spec, one).paths
    shape = SHAPE_WORDS[one.shape]
    if not paths:
        return OperationRow(at, one, name, f"{shape}, nothing found")
    wide, high = np.ptp(np.concatenate(paths), axis=0).tolist()
    clock = clock_of(spec)
    try:
        for moves in pipeline().operation_moves(spec, one):
            clock.add(moves)
    except EngravingError as error:
        return OperationRow(at, one, name, error.message)
    how = f"{one.speed_mm_s:g} mm/s"
    if one.kind == "inside":
        deepest = pipeline().inside(spec, one).deepest_mm
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
        seconds=clock.seconds,
        data=_drawn(spec, one, paths),
    )


def _drawn(spec: JobSpec, one: OperationPart, paths: list[NDArray[np.float64]]) -> str:
    """Return SVG path data for the bed; of a hatch its areas, which are filled."""
    deep = spec.machine.bed_height_mm
    if one.kind == "hatch":
        found = pipeline().areas_found(spec, one)
        return _data(outline_shape(spec, one, found).areas.geoms, spec)
    return path_data(paths, deep_mm=deep)


def _data(areas: Iterable[Polygon], spec: JobSpec) -> str:
    middle = piece_box(spec.size, spec.place).middle
    lying = translate(MultiPolygon(list(areas)), *middle)
    return area_path(lying, deep_mm=spec.machine.bed_height_mm)


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
