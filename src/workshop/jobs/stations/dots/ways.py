"""What the picture is marked by: what the fields of each way show, and what they do."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

from engraving.dots import METHODS
from engraving.dots.screens import WAVES
from engraving.jobspec import DotsPart, JobSpec, SizePart
from engraving.pipeline.stages.ways.carved import SCREENS
from engraving.pipeline.stages.ways.registry import WAYS
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.dots.level import changed_level, show_level
from workshop.jobs.stations.edit import Edit

RELIEF: Mapping[str, str] = MappingProxyType(
    {
        "relief_depth": "depth_mm", "relief_pass": "per_pass_mm", "relief_how": "how",
        "relief_spread": "spread", "relief_invert": "invert", "relief_gamma": "gamma",
        "relief_flat": "flat_ground", "relief_smooth": "smooth_mm",
        "relief_floor": "floor_mm", "relief_wall": "wall_deg", "relief_rim": "rim_mm",
        "relief_focus": "focus", "relief_every": "focus_every",
        "relief_clean": "clean_every", "relief_clean_power": "clean_power",
        "relief_clean_speed": "clean_speed_mm_s",
    }
)  # fmt: skip
CARVED: Mapping[str, str] = MappingProxyType(
    {
        "carve_deepest": "deepest_mm", "carve_least": "least_mm",
        "carve_ramp": "ramp_mm", "carve_set_off": "set_off", "carve_uneven": "uneven_mm",
        "carve_most_uneven": "most_uneven",
    }
)  # fmt: skip
TOOL: Mapping[str, str] = MappingProxyType(
    {"tool_angle": "angle_deg", "tool_tip": "tip_mm", "tool_across": "diameter_mm"}
)
DRAG: Mapping[str, str] = MappingProxyType(
    {"drag_crossed": "crossed", "drag_least": "least_mm", "drag_ground": "ground_percent"}
)
_PARTS = {"relief": RELIEF, "carving": CARVED, "drag": DRAG}


def show_ways(spec: JobSpec) -> dict[str, Any]:
    """Return what the fields of all ways show."""
    marking = spec.marking
    shown: dict[str, Any] = {"way": marking.way}
    for part, names in _PARTS.items():
        shown |= {name: getattr(getattr(marking, part), own) for name, own in names.items()}
    tool = marking.carving.tool
    shown |= show_level(marking.carving.level)
    return shown | {name: getattr(tool, own) for name, own in TOOL.items()}


def apply_ways(edit: Edit) -> None:
    """Apply what was changed of the way of marking and its settings."""
    if edit.has("way"):
        edit.spec = in_way(edit.spec, edit.changes["way"])
    marking = edit.spec.marking.model_dump(mode="json")
    before = dict(marking)
    for part, names in _PARTS.items():
        values = {own: edit.changes[name] for name, own in names.items() if edit.has(name)}
        marking[part] = {**marking[part], **values}
    tool = {own: edit.changes[name] for name, own in TOOL.items() if edit.has(name)}
    if tool:
        carving = marking["carving"]
        named = {**carving["tool"], **tool}
        named["name"] = f"V-tool {named['angle_deg']:g}°"
        marking["carving"] = {**carving, "tool": named}
    level = changed_level(edit, edit.spec.marking.carving.level)
    if level is not None:
        marking["carving"] = {**marking["carving"], "level": level or None}
    if marking != before:
        edit.spec = updated(edit.spec, {"marking": marking})


def in_way(spec: JobSpec, way: str) -> JobSpec:
    """Return a job marked in another way, by a dot method that goes with it."""
    changes: dict[str, Any] = {"marking": {"way": way}}
    dots = _begun_anew(spec)
    fits = dots.get("method", spec.dots.method) in (
        WAVES if way == "drag" else methods_of(way)
    )
    if not fits and methods_of(way):
        dots |= {"method": methods_of(way)[0], **_FRESH.get(way, {})}
    if dots:
        changes["dots"] = dots
    pitch = _pitch_of(spec, way)
    if pitch is not None and not spec.keeps_dots:
        changes["size"] = {"pitch_mm": pitch, "dot_pitch_mm": None}
    fastest = spec.machine.max_speed_mm_s
    if spec.machine.touches and spec.burn.speed_mm_s > fastest:
        changes["burn"] = {"speed_mm_s": fastest * _HALF}
    if way == "relief" and pipeline().likely_depth(spec) >= _EVEN_ODDS:
        changes["artwork"] = {"holds": "depth"}
    return updated(spec, changes)


def _begun_anew(spec: JobSpec) -> dict[str, Any]:
    """Return the dots a way that is left began with, as a new job has them.

    Where any of them was set by hand, all stay.
    """
    way = spec.marking.way
    if way not in _FRESH:
        return {}
    began = {"method": methods_of(way)[0], **_FRESH[way]}
    if any(getattr(spec.dots, name) != value for name, value in began.items()):
        return {}
    return {name: getattr(DotsPart(), name) for name in began}


def _pitch_of(spec: JobSpec, way: str) -> float | None:
    """Return the distance of rows a way begins with; None where it may stay."""
    if way == "carved":
        return _READ_AT_MM
    if way == "drag":
        return spec.machine.spot_mm
    carved = spec.marking.way == "carved" and spec.size.pitch_mm == _READ_AT_MM
    return SizePart().pitch_mm if carved else None


_READ_AT_MM = 0.25
"""So fine a picture is read for lines some mm apart (common practice, no source)."""
_EVEN_ODDS = 0.5
_HALF = 0.5
"""A tool begins at half of what its machine can do (common practice, no source)."""
_FRESH: Mapping[str, Mapping[str, Any]] = MappingProxyType(
    {
        "carved": {
            "ruling_cm": 10 / 3, "angle_deg": 45, "wavelength_mm": 60, "swing_mm": 4,
            "least_mark_mm": 0, "most_mark_mm": 0,
        },
        "drag": {"angle_deg": 0},
    }
)  # fmt: skip
"""What a way's screens begin with (common practice, no source)."""


def methods_of(way: str) -> tuple[str, ...]:
    """Return the dot methods that go with a way, the first to be taken first."""
    if way == "carved":
        return ("wavy", *(one for one in SCREENS if one != "wavy"))
    families = WAYS[way].families
    found = [name for name, one in METHODS.items() if one.family in families]
    return tuple(sorted(found, key=lambda name: way == "drag" and name != "line"))


def way_for(spec: JobSpec, kind: str) -> str:
    """Return the way a job is marked on a kind of machine: its own where that can be."""
    if kind in WAYS[spec.marking.way].machines:
        return spec.marking.way
    return next(name for name, one in WAYS.items() if kind in one.machines)
