"""What the Place station and its drawing of the bed show."""

import json
from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
import shapely

from engraving.cards import fastest_mm_s
from engraving.geometry.polygons import path_data
from engraving.jobspec import JobSpec, MachinePart, MarkPart, SizePart
from engraving.place import (
    ANCHORS,
    Box,
    anchor_of,
    burned_box,
    frame_of,
    inside_bed,
    mounted,
    piece_at,
    piece_box,
    reach_box,
)
from engraving.recipe import run_ups_mm
from workshop.jobs.camera.bed_camera import CameraFacts, camera_facts
from workshop.jobs.models import Job
from workshop.jobs.pictures.bed_geometry import (
    DrawnBlank,
    blank_on_bed,
    drawn_blank,
    svg_turn,
)
from workshop.jobs.pictures.wall import wall_key
from workshop.jobs.pictures.windows import view_key
from workshop.jobs.stations.place.border import BorderWalk, border_walk
from workshop.jobs.stations.place.fixture import FixtureFacts, fixture_facts
from workshop.jobs.stations.place.mount import (
    Band,
    MountFacts,
    mount_facts,
    zone_bands,
)

Tick = tuple[float, str, bool]
"""Where a line of a ruler stands in mm, its figure, and whether it is a long one."""


@dataclass(frozen=True)
class MarkLines:
    """A helper mark as SVG path data, and where its name stands in mm."""

    data: str
    name: str
    x: float
    y: float


@dataclass(frozen=True)
class PointFacts:
    """A kept point of the bed in mm, and whether the job begins there."""

    name: str
    x: float
    y: float
    chosen: bool


@dataclass(frozen=True)
class BedFacts:
    """The bed and all that lies on it, in mm, y counted from the back."""

    bed: MachinePart
    machine_x: tuple[float, float]
    box: Box
    top: float
    run_up: float
    run_ups: str
    lies: Box
    runs: Box
    turn: str
    off_bed: bool
    view: str
    run_off: bool
    first_key: str
    zero: tuple[float, float]
    sign: tuple[int, int]
    ticks_x: list[Tick]
    ticks_y: list[Tick]
    anchors: list[tuple[str, float, float, bool]]
    blank: DrawnBlank
    blank_box: Box
    wall: str
    keep_out: list[Band]
    picture_seen: bool
    outlines_at: str
    marks: list[MarkLines]
    points: list[PointFacts]
    snaps: str
    camera: CameraFacts | None
    fixture: FixtureFacts | None
    mount: MountFacts | None
    walk: BorderWalk
    turned: str
    design: SizePart
    mirror_shift: float
    free: tuple[float, float, float, float]


def bed_facts(spec: JobSpec, job: Job) -> BedFacts:
    """Return the bed drawing's measures, in mm, y counted from the back."""
    seen = camera_facts(job, spec)
    lying = mounted(spec)
    machine, size, place = spec.machine, lying.size, spec.place
    beside, before = run_ups_mm(spec, fastest_mm_s(spec))
    box, whole = piece_box(size, place), burned_box(spec)
    lies = reach_box(size, place)
    blank = drawn_blank(lying)
    frame = frame_of(machine)
    zero_x, zero_y = frame.to_bed(0.0, 0.0)
    deep = machine.bed_height_mm
    return BedFacts(
        bed=machine,
        machine_x=frame.to_machine(box.left, box.front),
        box=box,
        top=deep - box.back,
        run_up=max(beside, before),
        run_ups=_run_up_bands(box, beside, before, deep),
        lies=lies,
        runs=reach_box(size, place, beside, before),
        turn=svg_turn(lying),
        off_bed=not inside_bed(whole, machine),
        view=_wall_view(blank) if spec.mount.rotary else _bed_view(machine),
        run_off=not inside_bed(burned_box(spec, beside, before), machine),
        first_key=_first_key(spec),
        zero=(zero_x, deep - zero_y),
        sign=(frame.sign_x, frame.sign_y),
        ticks_x=_ticks(machine.bed_width_mm, lambda v: frame.to_machine(v, 0)[0]),
        ticks_y=[
            (deep - at, label, major)
            for at, label, major in _ticks(deep, lambda v: frame.to_machine(0, v)[1])
        ],
        anchors=[
            (name, *anchor_of(size, place, name), name == place.anchor) for name in ANCHORS
        ],
        blank=blank,
        blank_box=blank_on_bed(lying),
        wall=wall_key(spec) if spec.mount.rotary else "",
        keep_out=zone_bands(spec, blank),
        picture_seen=any(one.seen for one in spec.operations if one.kind == "raster"),
        outlines_at=_outlines_at(spec),
        marks=[_mark(one, machine) for one in spec.marks],
        points=_points(spec),
        snaps=_snaps(spec, seen.middles if seen else []),
        camera=seen,
        fixture=fixture_facts(spec),
        mount=mount_facts(spec),
        walk=border_walk(spec),
        turned=_turned_picture(spec, box) if spec.mount.rotary else "",
        design=spec.size,
        mirror_shift=box.left + box.right,
        free=(
            whole.left,
            machine.bed_width_mm - whole.right,
            whole.front,
            machine.bed_height_mm - whole.back,
        ),
    )


def _outlines_at(spec: JobSpec) -> str:
    """Return the SVG transform that lays outlines, as they are seen, on the bed."""
    x, y = piece_box(spec.size, spec.place).middle
    way = " scale(-1 1)" if spec.mirrored else ""
    return f"translate({x:.4f} {spec.machine.bed_height_mm - y:.4f}){way}"


def _run_up_bands(box: Box, beside: float, before: float, deep: float) -> str:
    """Return SVG path data of where the head runs up beside, before and behind rows."""
    bands = [
        (x, box.front, beside, box.height) for x in (box.left - beside, box.right) if beside
    ] + [(box.left, y, box.width, before) for y in (box.front - before, box.back) if before]
    edges = (
        np.asarray(shapely.box(x, y, x + wide, y + high).exterior.coords)
        for x, y, wide, high in bands
    )
    return path_data(edges, deep_mm=deep, closed=True)


def _wall_view(wall: DrawnBlank) -> str:
    """Return an SVG viewBox of an unrolled wall as it lies in its rotary."""
    room = 0.12 * max(wall.width, wall.height)
    left, top = wall.left - room, wall.top - room
    wide, high = wall.width + 2 * room, wall.height + 2 * room
    return f"{left:.1f} {top:.1f} {wide:.1f} {high:.1f}"


def _turned_picture(spec: JobSpec, box: Box) -> str:
    """Return the SVG transform that lays the upright proof on an unrolled, turned wall."""
    deep = spec.machine.bed_height_mm
    if spec.mount.top == "left":
        return f"translate({box.left:.3f} {deep - box.front:.3f}) rotate(-90)"
    return f"translate({box.right:.3f} {deep - box.back:.3f}) rotate(90)"


def _first_key(spec: JobSpec) -> str:
    """Return the key of the first pocket's proof where that is not the one looked at."""
    if spec.fixture is None or not spec.fixture.shown or spec.fixture.picture == "same":
        return ""
    return view_key(piece_at(spec, 0), "proof")


def _bed_view(machine: MachinePart) -> str:
    """Return an SVG viewBox of the bed with room for its rulers."""
    width, deep = machine.bed_width_mm, machine.bed_height_mm
    room = 0.06 * max(width, deep)
    return f"{-room:.1f} {-room:.1f} {width + 1.7 * room:.1f} {deep + 1.5 * room:.1f}"


def _ticks(length: float, name: Callable[[float], float]) -> list[Tick]:
    step = 10 if length <= 700 else 50
    return [
        (float(at), f"{name(at):.0f}", at % (5 * step) == 0)
        for at in range(0, int(length) + 1, step)
    ]


def _mark(mark: MarkPart, machine: MachinePart) -> MarkLines:
    wide, deep = machine.bed_width_mm, machine.bed_height_mm
    x, y = mark.x_mm, deep - mark.y_mm
    data = {
        "upright": f"M{x:.3f} 0V{deep:.3f}",
        "level": f"M0 {y:.3f}H{wide:.3f}",
        "cross": f"M{x - 8:.3f} {y:.3f}h16M{x:.3f} {y - 8:.3f}v16",
        "box": f"M{x:.3f} {y:.3f}h{mark.width_mm:.3f}v{-mark.height_mm:.3f}"
        f"h{-mark.width_mm:.3f}z",
    }[mark.kind]
    where = {"upright": (x, 0.0), "level": (0.0, y)}.get(mark.kind, (x, y))
    return MarkLines(data, mark.name, *where)


def _points(spec: JobSpec) -> list[PointFacts]:
    deep, place = spec.machine.bed_height_mm, spec.place
    return [
        PointFacts(name, x, deep - y, place.zero == "point" and place.point == name)
        for name, x, y in spec.machine.points
    ]


def _snaps(spec: JobSpec, seen: Iterable[tuple[float, float]]) -> str:
    """Return the x and the y that a dragged piece is drawn to, as JSON."""
    machine = spec.machine
    xs = {0.0, machine.bed_width_mm / 2, machine.bed_width_mm}
    ys = {0.0, machine.bed_height_mm / 2, machine.bed_height_mm}
    for x, y in [*seen, *((x, y) for _, x, y in machine.points)]:
        xs.add(x)
        ys.add(y)
    for mark in spec.marks:
        far = mark.x_mm + mark.width_mm, mark.y_mm + mark.height_mm
        half = mark.x_mm + mark.width_mm / 2, mark.y_mm + mark.height_mm / 2
        boxed = mark.kind == "box"
        if mark.kind != "level":
            xs |= {mark.x_mm, far[0], half[0]} if boxed else {mark.x_mm}
        if mark.kind != "upright":
            ys |= {mark.y_mm, far[1], half[1]} if boxed else {mark.y_mm}
    return json.dumps({"x": sorted(xs), "y": sorted(ys)})
