"""What the Place station and its drawing of the bed show."""

from typing import Any

from engraving.place import (
    ANCHORS,
    anchor_point,
    frame_of,
    inside_bed,
    piece_box,
    run_up_box,
)
from engraving.recipe import run_up_mm
from engraving.spec import JobSpec


def bed_facts(spec: JobSpec) -> dict[str, Any]:
    """Return the bed drawing's measures, in mm, y counted from the back."""
    machine, size, place = spec.machine, spec.size, spec.place
    run_up = run_up_mm(spec.burn.speed_mm_s, machine.acceleration_mm_s2)
    box = piece_box(size, place)
    reach = run_up_box(size, place, run_up)
    frame = frame_of(machine)
    zero_x, zero_y = frame.to_bed(0.0, 0.0)
    deep = machine.bed_height_mm
    return {
        "bed": machine,
        "machine_x": frame.to_machine(box.left, box.front),
        "box": box,
        "top": deep - box.back,
        "run_up": run_up,
        "reach": reach,
        "off_bed": not inside_bed(box, machine),
        "view": _bed_view(machine.bed_width_mm, deep),
        "run_off": not inside_bed(reach, machine),
        "zero": (zero_x, deep - zero_y),
        "sign": (frame.sign_x, frame.sign_y),
        "ticks_x": _ticks(machine.bed_width_mm, lambda v: frame.to_machine(v, 0)[0]),
        "ticks_y": [
            (deep - at, label, major)
            for at, label, major in _ticks(deep, lambda v: frame.to_machine(0, v)[1])
        ],
        "anchors": [
            (name, *anchor_point(box, name), name == place.anchor) for name in ANCHORS
        ],
        "blank": _blank_on_bed(spec),
        "mirror_shift": box.left + box.right,
        "free": (
            box.left,
            machine.bed_width_mm - box.right,
            box.front,
            machine.bed_height_mm - box.back,
        ),
    }


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


def _blank_on_bed(spec: JobSpec) -> dict[str, Any]:
    """Return the blank's outline; the artwork lies in its middle."""
    box = piece_box(spec.size, spec.place)
    blank, size = spec.blank, spec.size
    across = -size.offset_x_mm if spec.mirrored else size.offset_x_mm
    x = (box.left + box.right) / 2 - across
    y = (box.front + box.back) / 2 - size.offset_y_mm
    return {
        "shape": blank.shape,
        "cx": x,
        "cy": spec.machine.bed_height_mm - y,
        "left": x - blank.width_mm / 2,
        "top": spec.machine.bed_height_mm - y - blank.height_mm / 2,
        "width": blank.width_mm,
        "height": blank.height_mm,
        "rx": blank.width_mm / 2,
        "ry": blank.height_mm / 2,
        "corner": blank.corner_mm if blank.shape == "rounded" else 2,
        "outline": _outline_path(spec),
        "ground": spec.substrate.ground,
    }


def _outline_path(spec: JobSpec) -> str:
    """Return the blank's outline as SVG path data about its middle, mirrored as burned."""
    way = -1 if spec.mirrored else 1
    return "".join(
        "M" + "L".join(f"{way * x:.3f} {y:.3f}" for x, y in ring) + "Z"
        for ring in spec.blank.outline
    )
