"""What the Place station and its drawing of the bed show."""

import json
from collections.abc import Iterable
from typing import Any

import numpy as np
import shapely

from engraving.cards import fastest_mm_s
from engraving.geometry.polygons import path_data
from engraving.jobspec import JobSpec, MachinePart, MarkPart
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
from workshop.jobs.camera.bed_camera import camera_facts
from workshop.jobs.models import Job
from workshop.jobs.pictures.bed_geometry import blank_on_bed, drawn_blank, svg_turn
from workshop.jobs.pictures.wall import wall_key
from workshop.jobs.pictures.windows import view_keys
from workshop.jobs.stations.place.mount import zone_bands


def bed_facts(spec: JobSpec, job: Job) -> dict[str, Any]:
    """Return the bed drawing's measures, in mm, y counted from the back."""
    seen = camera_facts(job, spec)
    lying = mounted(spec)
    machine, size, place = spec.machine, lying.size, spec.place
    beside, before = run_ups_mm(spec, fastest_mm_s(spec))
    box, whole = piece_box(size, place), burned_box(spec)
    lies = reach_box(size, place)
    frame = frame_of(machine)
    zero_x, zero_y = frame.to_bed(0.0, 0.0)
    deep = machine.bed_height_mm
    return {
        "bed": machine,
        "machine_x": frame.to_machine(box.left, box.front),
        "box": box,
        "top": deep - box.back,
        "run_up": max(beside, before),
        "run_ups": _run_up_bands(box, beside, before, deep),
        "lies": lies,
        "runs": reach_box(size, place, beside, before),
        "turn": svg_turn(lying),
        "off_bed": not inside_bed(whole, machine),
        "view": _view(lying, turned=spec.mount.rotary),
        "run_off": not inside_bed(burned_box(spec, beside, before), machine),
        "first_key": _first_key(spec),
        "zero": (zero_x, deep - zero_y),
        "sign": (frame.sign_x, frame.sign_y),
        "ticks_x": _ticks(machine.bed_width_mm, lambda v: frame.to_machine(v, 0)[0]),
        "ticks_y": [
            (deep - at, label, major)
            for at, label, major in _ticks(deep, lambda v: frame.to_machine(0, v)[1])
        ],
        "anchors": [
            (name, *anchor_of(size, place, name), name == place.anchor) for name in ANCHORS
        ],
        "blank": drawn_blank(lying),
        "blank_box": blank_on_bed(lying),
        "wall": wall_key(spec) if spec.mount.rotary else "",
        "keep_out": zone_bands(spec, drawn_blank(lying)),
        "picture_seen": any(one.seen for one in spec.operations if one.kind == "raster"),
        "marks": [_mark(one, machine) for one in spec.marks],
        "points": _points(spec),
        "snaps": _snaps(spec, seen.get("middles", [])),
        "camera": seen,
        "turned": _turned_picture(spec, box) if spec.mount.rotary else "",
        "design": spec.size,
        "mirror_shift": box.left + box.right,
        "free": (
            whole.left,
            machine.bed_width_mm - whole.right,
            whole.front,
            machine.bed_height_mm - whole.back,
        ),
    }


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


def _wall_view(lying: JobSpec) -> str:
    """Return an SVG viewBox of an unrolled wall as it lies in its rotary."""
    wall = drawn_blank(lying)
    room = 0.12 * max(wall["width"], wall["height"])
    left, top = wall["left"] - room, wall["top"] - room
    wide, high = wall["width"] + 2 * room, wall["height"] + 2 * room
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
    return view_keys(piece_at(spec, 0))["proof"]


def _view(lying: JobSpec, *, turned: bool) -> str:
    """Return the viewBox of the bed, or of the wall that is turned over it."""
    machine = lying.machine
    if turned:
        return _wall_view(lying)
    return _bed_view(machine.bed_width_mm, machine.bed_height_mm)


def _bed_view(width: float, deep: float) -> str:
    """Return an SVG viewBox of the bed with room for its rulers."""
    room = 0.06 * max(width, deep)
    return f"{-room:.1f} {-room:.1f} {width + 1.7 * room:.1f} {deep + 1.5 * room:.1f}"


def _ticks(length: float, name: Any) -> list[tuple[float, str, bool]]:
    step = 10 if length <= 700 else 50
    return [
        (float(at), f"{name(at):.0f}", at % (5 * step) == 0)
        for at in range(0, int(length) + 1, step)
    ]


def _mark(mark: MarkPart, machine: MachinePart) -> dict[str, Any]:
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
    return {"data": data, "name": mark.name, "x": where[0], "y": where[1]}


def _points(spec: JobSpec) -> list[dict[str, Any]]:
    deep, place = spec.machine.bed_height_mm, spec.place
    return [
        {
            "name": name,
            "x": x,
            "y": deep - y,
            "chosen": place.zero == "point" and place.point == name,
        }
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
