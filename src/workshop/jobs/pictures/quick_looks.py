"""A quick look at a job too large to be computed while one waits.

The same job on a grid so many times coarser, with everything that is measured
in dots made so many times smaller. It is the same size in mm, and its tones
are right, since reproduction follows the coarser dots; its dots are not the
real ones. Pictures made from it say so, and are replaced by exact ones.
"""

import math

from engraving.jobspec import JobSpec
from engraving.proof import Window
from workshop.jobs.pictures.windows import LAMP_DEG, Picture, picture
from workshop.jobs.revisions.writer import updated

EXACT_AT_ONCE = 16_000_000
"""Grids of up to so many dots are shown exactly at once."""
RELIEF_AT_ONCE = 1_000_000
"""The same of reliefs, whose passes are planned anew for each depth."""

_QUICK = 3_000_000
_QUICK_RELIEF = 400_000
_IN_DOTS = ("blur_dots", "sharpen_dots", "detail_dots")
_VIEWS = ("toned", "dots", "proof")


def is_large(spec: JobSpec) -> bool:
    """Return whether a quick look is worth having."""
    most = RELIEF_AT_ONCE if spec.marking.way == "relief" else EXACT_AT_ONCE
    return spec.size.cols * spec.size.rows > most and not spec.keeps_dots


def quick_look(
    spec: JobSpec, view: str, window: Window, lamp_deg: float = LAMP_DEG
) -> Picture | None:
    """Return a window of a view from a coarser grid; None where exact is as quick."""
    if view not in _VIEWS or not is_large(spec):
        return None
    size, tone = spec.size, spec.tone
    dots = _QUICK_RELIEF if spec.marking.way == "relief" else _QUICK
    times = math.sqrt(size.cols * size.rows / dots)
    dot_pitch = size.dot_pitch_mm and size.dot_pitch_mm * times
    radii = {name: getattr(tone, name) / times for name in _IN_DOTS}
    least = 0.1
    for name in _IN_DOTS[1:]:
        radii[name] = max(radii[name], least)
    coarse = updated(
        spec,
        {
            "size": {"pitch_mm": size.pitch_mm * times, "dot_pitch_mm": dot_pitch},
            "tone": radii,
            "machine": {"spot_mm": spec.machine.spot_mm * times},
            # Coarser rows get less dose; it is to be the same multiple of the recipe's.
            "burn": {"recipe_dose": spec.burn.recipe_dose / times},
        },
    )
    across, down = coarse.size.cols / size.cols, coarse.size.rows / size.rows
    left, top = round(window.left * across), round(window.top * down)
    part = Window(
        left,
        top,
        max(1, round(window.cols * across)),
        max(1, round(window.rows * down)),
        window.width_px,
        window.height_px,
    )
    shown = min(part.width_px, 4 * part.cols), min(part.height_px, 4 * part.rows)
    coarser = Window(left, top, part.cols, part.rows, *shown)
    return picture(coarse, view, coarser, lamp_deg=lamp_deg)
