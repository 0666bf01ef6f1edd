"""Rotary mounts on the Place station: what they show, and what changing them does."""

import math
from dataclasses import dataclass
from typing import Any

from engraving.errors import InputError
from engraving.jobspec import ROUND, Crop, JobSpec, ZonePart
from engraving.place import (
    after_a_line,
    after_a_wrong_stop,
    diameter_mm,
    engravable_box,
    mm_per_degree,
    repeating_pitch_mm,
    ring_diameter_mm,
    slant_mm,
    surface_steps_per_mm,
    tilt_deg,
    written_per_mm,
    zones_on_wall,
)
from workshop.jobs.pictures.bed_geometry import DrawnBlank
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.artwork.changes import apply_artwork
from workshop.jobs.stations.edit import Edit
from workshop.jobs.stations.shelf_items import last_rotary

_LINE_MM = 50.0
_FIELDS = {
    "top": "top",
    "steps": "steps_per_turn",
    "roller": "roller_mm",
    "output": "output",
    "y_steps": "y_steps_mm",
    "reversed": "reversed",
    "back_to_start": "back_to_start",
    "overlap": "overlap_mm",
    "wrap": "wrap",
    "strip": "strip_mm",
    "jaw": "jaw",
}


def show_mount(spec: JobSpec) -> dict[str, Any]:
    """Return what the mount's fields show."""
    mount, across = spec.mount, diameter_mm(spec.blank)
    shown = {name: getattr(mount, value) for name, value in _FIELDS.items()}
    return {
        **shown,
        "mount": mount.kind,
        "diameter": across,
        "around": math.pi * across,
        "ring_size": _ring_size(spec),
        "past": 0.0,
        "past_deg": 0.0,
        "overlap_deg": _overlap_deg(spec),
        "line_told": _LINE_MM,
        "line_came": 0.0,
        "repeat": spec.size.repeat,
        "from_seam": spec.size.offset_x_mm + spec.blank.width_mm / 2,
        "design_turn": "",
        "zone_name": "",
        "zone_from": 0.0,
        "zone_width": 20.0,
        "zone_add": "",
        "zone_drop": None,
    }


def _overlap_deg(spec: JobSpec) -> float:
    around = spec.blank.width_mm
    return 360 * spec.mount.overlap_mm / around if around else 0.0


def _ring_size(spec: JobSpec) -> float:
    """Return a ring's size: the way round its inside in mm."""
    across = diameter_mm(spec.blank) - 2 * spec.blank.thickness_mm
    return math.pi * across if across > 0 else 0.0


@dataclass(frozen=True)
class MountFacts:
    """What turns, and how far; mm, degrees, output units and counts."""

    around: float
    length: float
    degree: float
    steps: float
    told: float
    tilt: float
    tapered: bool
    rows: int
    open: float
    overlap_deg: float
    zones: list[tuple[int, ZonePart]]
    ring: bool
    strips: int


def mount_facts(spec: JobSpec) -> MountFacts | None:
    """Return what follows from mount and piece; None of what cannot be turned."""
    blank, mount = spec.blank, spec.mount
    if blank.shape not in ROUND:
        return None
    across = diameter_mm(blank)
    turner = mount.roller_mm if mount.kind == "rollers" else across
    rows = spec.size.cols
    return MountFacts(
        around=blank.width_mm,
        length=slant_mm(blank),
        degree=mm_per_degree(turner),
        steps=surface_steps_per_mm(mount, across),
        told=abs(written_per_mm(spec)),
        tilt=tilt_deg(blank),
        tapered=blank.shape == "taper",
        rows=rows,
        open=blank.width_mm - spec.size.width_mm,
        overlap_deg=_overlap_deg(spec),
        zones=list(enumerate(mount.zones)),
        ring=blank.shape == "ring",
        strips=math.ceil(spec.size.height_mm / mount.strip_mm) if mount.strip_mm else 0,
    )


@dataclass(frozen=True)
class Band:
    """A part of a wall that is kept clear, as it is drawn, in mm."""

    top: float
    high: float


def zone_bands(spec: JobSpec, wall: DrawnBlank) -> list[Band]:
    """Return where the parts kept clear lie on the wall as it is drawn, turned."""
    if not spec.mount.rotary:
        return []
    middle = wall.top + wall.height / 2
    bands = []
    for zone, begin, end in zones_on_wall(spec):
        # A wall whose top lies to the left runs upward, one to the right downward.
        top = middle - end if spec.mount.top == "left" else middle + begin
        bands.append(Band(top, zone.width_mm))
    return bands


def apply_mount(edit: Edit) -> None:
    """Apply what was changed of the mount."""
    if edit.has("mount"):
        _choose(edit, edit.changes["mount"])
    edit.take("mount", **_FIELDS)
    if edit.has("overlap_deg"):
        over = (edit.changes["overlap_deg"] or 0.0) / 360 * edit.spec.blank.width_mm
        edit.spec = updated(edit.spec, {"mount": {"overlap_mm": round(over, 6)}})
    if edit.has("diameter", "around", "ring_size"):
        _measure(edit)
    if edit.changes.get("past") or edit.changes.get("past_deg"):
        _calibrate(edit)
    if edit.changes.get("line_came"):
        _calibrate_by_line(edit)
    if edit.changes.get("design_turn"):
        _turn_design(edit)
    if edit.has("wrap") and not edit.spec.mount.wrap and edit.spec.size.repeat > 1:
        edit.spec = updated(edit.spec, {"size": {"repeat": 1}})
    closing = ("wrap", "repeat", "diameter", "around", "ring_size", "mount", "design_turn")
    if edit.spec.mount.wrap and edit.has(*closing):
        _wrap(edit, edit.changes.get("repeat", edit.spec.size.repeat))
    if edit.has("from_seam"):
        off = edit.changes["from_seam"] - edit.spec.blank.width_mm / 2
        edit.spec = updated(edit.spec, {"size": {"offset_x_mm": round(off, 6)}})
    _change_zones(edit)


def _choose(edit: Edit, kind: str) -> None:
    """Take a mount; a rotary begins as the last one on this machine stood."""
    if kind != "flat" and edit.spec.blank.shape not in ROUND:
        raise InputError(
            "Choose a ring band or a wall at the Blank station first.", field="mount"
        )
    data = edit.spec.mount.model_dump()
    if kind != "flat" and not edit.spec.mount.rotary and (last := last_rotary(edit.job)):
        data = last
    edit.spec = updated(edit.spec, {"mount": data | {"kind": kind}, "fixture": None})


def _measure(edit: Edit) -> None:
    """Take a measured diameter or circumference for this job's blank."""
    blank = edit.spec.blank
    if blank.shape == "taper":
        raise InputError(
            "A tapered wall has two diameters; type them on the shelf.",
            field="around" if edit.has("around") else "diameter",
        )
    across = edit.changes.get("diameter")
    if edit.has("around"):
        across = edit.changes["around"] / math.pi
    if edit.has("ring_size"):
        across = ring_diameter_mm(edit.changes["ring_size"], blank.thickness_mm)
    if not across:
        raise InputError("Measure the diameter, or the way round.", field="diameter")
    edit.spec = updated(edit.spec, {"blank": {"diameter_mm": across}})


def _calibrate(edit: Edit) -> None:
    """Set the steps by where a turn stopped past its mark, in mm of surface or in °."""
    mount, past = edit.spec.mount, edit.changes.get("past") or 0.0
    across = mount.roller_mm if mount.kind == "rollers" else diameter_mm(edit.spec.blank)
    degrees = edit.changes.get("past_deg") or past / mm_per_degree(across)
    if not -180 < degrees < 180:
        raise InputError("That is more than half a turn.", field="past")
    steps = round(after_a_wrong_stop(mount.steps_per_turn, degrees), 4)
    edit.spec = updated(
        edit.spec, {"mount": {"steps_per_turn": steps, "steps_known": "measured"}}
    )


def _calibrate_by_line(edit: Edit) -> None:
    """Set the steps by a line of known length that came out so long."""
    told, came = edit.changes.get("line_told", _LINE_MM), edit.changes["line_came"]
    if not 0.5 < came / told < 2:
        raise InputError(
            "That is not near the length that was to come out; measure once more.",
            field="line_came",
        )
    steps = round(after_a_line(edit.spec.mount.steps_per_turn, told, came), 4)
    edit.spec = updated(
        edit.spec, {"mount": {"steps_per_turn": steps, "steps_known": "measured"}}
    )


def _turn_design(edit: Edit) -> None:
    """Turn the design a quarter on the wall, as large as fits."""
    turned = Edit(edit.spec, {"turn": edit.changes["design_turn"]}, edit.job)
    apply_artwork(turned)
    spec = turned.spec
    if not spec.mount.wrap:
        _, _, wide, high = engravable_box(spec.blank)
        width = min(wide, spec.blank.width_mm, high * spec.artwork.ratio)
        size = {"width_mm": width, "height_mm": width / spec.artwork.ratio}
        spec = updated(spec, {"size": size})
    edit.spec = spec


def _change_zones(edit: Edit) -> None:
    """Keep a part of the wall clear, or use it again."""
    zones = [zone.model_dump(mode="json") for zone in edit.spec.mount.zones]
    drop = edit.changes.get("zone_drop")
    if edit.changes.get("zone_add"):
        zones.append(
            {
                "name": edit.changes.get("zone_name") or "Handle",
                "from_mm": edit.changes.get("zone_from", 0.0),
                "width_mm": edit.changes.get("zone_width", 20.0),
            }
        )
    elif drop is not None and drop < len(zones):
        zones.pop(drop)
    else:
        return
    edit.spec = updated(edit.spec, {"mount": {"zones": zones}})


def _wrap(edit: Edit, repeat: int) -> None:
    """Let the picture close round the wall: cut to its ratio, rows that come out even."""
    spec = edit.spec
    _, _, _, high = engravable_box(spec.blank)
    around = spec.blank.width_mm
    whole = spec.artwork.model_copy(update={"crop": Crop()}).ratio
    wanted = around / repeat / high
    crop = Crop.to_ratio(whole, wanted).model_dump()
    size = {
        "fit": "exact",
        "lock_ratio": False,
        "width_mm": around,
        "height_mm": high,
        "dot_pitch_mm": repeating_pitch_mm(around, spec.size.pitch_mm, repeat),
        "repeat": repeat,
        "offset_x_mm": 0.0,
    }
    edit.spec = updated(
        spec, {"artwork": {"crop": crop}, "size": size, "blank": {"keep_inside": False}}
    )
