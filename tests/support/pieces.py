"""Pieces burned on the stand-in and photographed, and what they teach.

The scene is made up; how a material answers is the stand-in's secret.
"""

from functools import cache

import cv2
import numpy as np

from engraving.jobspec import ArtworkPart, BlankPart, JobSpec, MachinePart, SizePart
from engraving.pieces import amended, read_piece
from standins.camera import View, marks_of, photograph
from support.cards import burned, material
from support.jobs import changed, pipeline_of
from support.ramps import lightness

WIDE, HIGH, PITCH = 28.0, 20.0, 0.1
COLS, ROWS = 280, 200
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
TRUE_MM, CELLS = 0.0135, (14, 10)


@cache
def scene(seed, cols=COLS, rows=ROWS):
    """Soft lights, hard edges, some of it black, some white."""
    draw = np.random.default_rng(seed)
    y, x = np.mgrid[0:rows, 0:cols].astype(np.float32)
    waves = np.cos(x / cols * 3 + draw.uniform(0, 6)) * np.sin(
        y / rows * 4 + draw.uniform(0, 6)
    )
    gray = 128 + 60 * waves
    for _ in range(26):
        across, down = draw.uniform(0, cols), draw.uniform(0, rows)
        size = draw.uniform(0.02, 0.16) * cols
        far = ((x - across) ** 2 + (y - down) ** 2) / (2 * size**2)
        gray += draw.uniform(-90, 90) * np.exp(-far * draw.uniform(0.6, 1.6))
    for _ in range(10):
        across, down = draw.uniform(0, cols), draw.uniform(0, rows)
        a, b = draw.uniform(0.012, 0.09, 2) * cols
        gray[((x - across) / a) ** 2 + ((y - down) / b) ** 2 < 1] += draw.uniform(-70, 70)
    return np.clip(gray, 0, 255).astype(np.uint8)


def piece_spec(told, patches=(), **blank):
    """A picture on a blank with a rim of 7 mm."""
    rim = {"width_mm": WIDE + 14, "height_mm": HIGH + 14, **blank}
    spec = JobSpec(
        artwork=ArtworkPart(width_px=COLS, height_px=ROWS),
        size=SizePart(width_mm=WIDE, height_mm=HIGH, pitch_mm=PITCH),
        substrate=told,
        machine=MachinePart(max_speed_mm_s=500, acceleration_mm_s2=5000),
        blank=BlankPart(**rim),
    )
    how = {"mode": "measured", "patches": patches} if patches else {"mode": "spot"}
    return changed(spec, burn={"speed_mm_s": 200, "power": 60}, reproduction=how)


def photographed(machine, surface, spec, view):
    place, size = spec.place, spec.size
    box = size.width_mm, size.height_mm
    return photograph(machine.strokes(), surface, place.x_mm, place.y_mm, box, view)


@cache
def one_piece(name="soft wood", seed=7):
    """What was expected of a piece, and its photo."""
    told, surface = material(name)
    spec, pipeline = piece_spec(told), pipeline_of(scene(seed))
    machine = burned(spec, pipeline)
    photo = photographed(machine, surface, spec, View(px_mm=18, seed=3))
    return pipeline.expected(spec), photo


def wanted_cells(pipeline, spec, curve):
    """L* that was promised in each cell: even between what bare and solid come out at."""
    code = pipeline.finished(spec) / 255.0
    light = np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)
    low, high = sorted((curve[0][1], curve[-1][1]))
    wanted = low + (high - low) * lightness(light) / 100
    y = np.where(wanted > 8, ((wanted + 16) / 116) ** 3, wanted * 27 / 24389)
    return lightness(cv2.resize(y, CELLS, interpolation=cv2.INTER_AREA))


def true_cells(machine, surface, spec):
    """L* of each cell as it lies there, no camera between."""
    box = spec.size.width_mm, spec.size.height_mm
    place = spec.place
    seen = marks_of(machine.strokes(), surface, place.x_mm, place.y_mm, box, TRUE_MM)
    return lightness(cv2.resize(seen @ LUMINANCE, CELLS, interpolation=cv2.INTER_AREA))


def taught(name, photos=3):
    """RMS in L* of each piece to what was promised; each but the last is learned from."""
    told, surface = material(name)
    patches, learned, off = (), [], []
    for turn in range(photos + 1):
        spec, pipeline = piece_spec(told, patches), pipeline_of(scene(50 + turn))
        machine = burned(spec, pipeline)
        expected = pipeline.expected(spec)
        apart = true_cells(machine, surface, spec) - wanted_cells(
            pipeline, spec, expected.curve
        )
        off.append(float(np.sqrt((apart**2).mean())))
        if turn < photos:
            photo = photographed(machine, surface, spec, View(px_mm=18, seed=turn + 1))
            learned.append(read_piece(photo, expected).learned)
            patches = amended(expected.curve, learned).patches
    return off
