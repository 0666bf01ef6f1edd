"""The finished piece as a surface: a mesh to turn, and cuts through it."""

import json
import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.errors import InputError
from engraving.geometry.polygons import polygons
from engraving.jobspec import JobSpec
from engraving.place import face_area
from engraving.proof import Window, crossed, shown_colours
from workshop.jobs.pictures.engine import pipeline
from workshop.shell.services import shown_length

Depths = NDArray[np.float32]
Point = tuple[float, float]

_SIDE = 256
_SAMPLES = 600
_MOST_PX = 2000
_WIDE, _HIGH = 600.0, 150.0
_STEPS = (0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100)


@dataclass(frozen=True)
class Mesh:
    """Depths in mm, float32, row by row from the top left, and what they measure.

    They are no numbers where no blank is.
    """

    data: bytes
    told: str


@dataclass(frozen=True)
class Section:
    """A cut through the piece, drawn: SVG path data, ticks, and figures in mm."""

    made: str
    wanted: str
    across: list[tuple[float, float]]
    down: list[tuple[float, float]]
    length: float
    deepest: float
    taller: float
    bottom: float


def mesh(spec: JobSpec) -> Mesh:
    """Return the whole surface, at most 256 samples wide and high.

    Raises
    ------
    InputError
        When the way it is marked leaves it flat.
    """
    window = _whole_blank(spec)
    depths = _on_blank(spec, window, _surface(spec, window))
    ground, mark = shown_colours(spec.substrate)[:2]
    told = {
        "cols": depths.shape[1], "rows": depths.shape[0],
        "width": window.cols * spec.size.along_mm,
        "height": window.rows * spec.size.pitch_mm,
        "deepest": float(np.nanmax(depths, initial=0)), "ground": ground, "mark": mark,
    }  # fmt: skip
    return Mesh(np.ascontiguousarray(depths, "<f4").tobytes(), json.dumps(told))


def _whole_blank(spec: JobSpec) -> Window:
    """Return the window of the grid that the blank reaches over."""
    size, blank = spec.size, spec.blank
    along, pitch = size.cell_mm
    cols, rows = math.ceil(blank.width_mm / along), math.ceil(blank.height_mm / pitch)
    left = round((size.cols - cols) / 2 - size.offset_x_mm / along)
    top = round((size.rows - rows) / 2 + size.offset_y_mm / pitch)
    shrink = max(1.0, cols / _SIDE, rows / _SIDE)
    width, height = max(2, round(cols / shrink)), max(2, round(rows / shrink))
    return Window(left, top, cols, rows, width, height)


def _on_blank(spec: JobSpec, window: Window, depths: Depths) -> Depths:
    """Return depths that are no numbers beyond the blank's edge."""
    size, (rows, cols) = spec.size, depths.shape
    along, pitch = size.cell_mm
    scale = np.array([cols / (window.cols * along), rows / (window.rows * pitch)])
    middle = (
        (size.cols / 2 - window.left) * along - size.offset_x_mm,
        (size.rows / 2 - window.top) * pitch + size.offset_y_mm,
    )
    kept = np.zeros(depths.shape, np.uint8)
    for area in polygons(face_area(spec.blank)).geoms:
        rings = [np.asarray(one.coords) for one in (area.exterior, *area.interiors)]
        seen = [(ring * (1, -1) + middle) * scale for ring in rings]
        points = [np.rint(one).astype(np.int32) for one in seen]
        cv2.fillPoly(kept, points, 1)
    return np.where(kept > 0, depths, np.float32(np.nan))


def _surface(spec: JobSpec, window: Window) -> Depths:
    found = pipeline().surface(spec, window)
    if found is None:
        raise InputError(
            "Marked like this the piece is flat: there is nothing to turn or cut."
        )
    return found


def section(spec: JobSpec, start: Point, end: Point) -> Section:
    """Return a cut along a line, its ends in mm from the picture's upper left corner.

    Raises
    ------
    InputError
        When the line is too short, or the piece flat.
    """
    length = math.dist(start, end)
    if not math.isfinite(length) or length < 0.5:
        raise InputError("Draw the line at least half a millimetre long.")
    window, corner = _round_line(spec, start, end)
    made = _surface(spec, window)
    px = (
        window.cols * spec.size.along_mm / made.shape[1],
        window.rows * spec.size.pitch_mm / made.shape[0],
    )
    line = (start, end)
    profile = crossed(made, px, corner, line, _SAMPLES)
    deepest = float(max(profile.max(initial=0), _wanted_depth(spec), 1e-3))
    to_x, to_y = _WIDE / length, _HIGH / deepest
    wanted = ""
    if spec.marking.way == "relief":
        cell = spec.size.cell_mm
        depths = crossed(pipeline().relief(spec).depths, cell, (0.0, 0.0), line, _SAMPLES)
        wanted = _path(depths * to_y)
    return Section(
        made=_path(profile * to_y),
        wanted=wanted,
        across=_ticks(length, 8, to_x),
        down=_ticks(deepest, 4, to_y),
        length=length,
        deepest=float(profile.max(initial=0)),
        taller=to_y / to_x,
        bottom=_HIGH,
    )


def _wanted_depth(spec: JobSpec) -> float:
    return pipeline().relief(spec).deepest_mm if spec.marking.way == "relief" else 0.0


def _round_line(spec: JobSpec, start: Point, end: Point) -> tuple[Window, Point]:
    """Return the window of the grid round a line, and where its corner lies in mm."""
    along, pitch = spec.size.cell_mm
    left = math.floor(min(start[0], end[0]) / along) - 2
    top = math.floor(min(start[1], end[1]) / pitch) - 2
    cols = math.ceil(max(start[0], end[0]) / along) + 2 - left
    rows = math.ceil(max(start[1], end[1]) / pitch) + 2 - top
    far = max(abs(one) for one in (*start, *end))
    if far > 2 * max(spec.size.width_mm, spec.size.height_mm):
        raise InputError("The line lies off the picture.")
    # A tool's lines are drawn finer than the dots they are told by.
    finer = 1 if spec.marking.way == "relief" else 4
    scale = min(finer, _MOST_PX / cols, _MOST_PX / rows)
    size = max(1, round(cols * scale)), max(1, round(rows * scale))
    return Window(left, top, cols, rows, *size), (left * along, top * pitch)


def _path(profile: Depths) -> str:
    x = np.linspace(0, _WIDE, len(profile))
    return "M" + "L".join(f"{a:.1f} {b:.1f}" for a, b in zip(x, profile, strict=True))


def _ticks(most: float, about: int, scale: float) -> list[tuple[float, float]]:
    """Return value, in the unit shown, and place of the ticks of an axis."""
    unit = shown_length(1.0)
    step = next((one for one in _STEPS if most * unit / one <= about), _STEPS[-1])
    count = int(most * unit / step + 1e-9) + 1
    return [(k * step, k * step / unit * scale) for k in range(count)]
