"""A point under a spring: it scratches lines, or rows of dots."""

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.colour.hexadecimal import linear_of
from engraving.dots import BitGrid
from engraving.dots.screens import WAVES
from engraving.jobspec import WAY_MACHINES, DotsPart, DragPart
from engraving.pipeline.stage import Asked, stage, value
from engraving.pipeline.stages.dots import aimed, burned_dots
from engraving.pipeline.stages.settings import cell_mm
from engraving.pipeline.stages.ways.dots import writing
from engraving.pipeline.stages.ways.way import (
    Pixels,
    Way,
    Words,
    covered_in,
    drawn,
    lain,
)
from engraving.proof import Window
from engraving.proof.plaster import shaded
from engraving.scratching import scratch_dots, scratch_lines
from engraving.toolpath import Moves
from engraving.toolpath.tool import ToolRun, record_tool

Values = NDArray[np.float64]

PLUNGE_MM_S = 2.0
"""A point goes down gently (common practice, no source)."""


@dataclass(frozen=True)
class Scratch:
    """How a point scratches the picture."""

    drag: DragPart
    dots: DotsPart
    mark_mm: float
    depth_mm: float
    both_ways: bool

    @property
    def in_lines(self) -> bool:
        """Whether it scratches lines, not rows of dots."""
        return self.dots.method in WAVES


@value(
    reads=(
        "marking.way", "marking.drag", "dots", "machine.spot_mm", "machine.depth_mm",
        "burn.both_ways",
    )
)  # fmt: skip
def scratch(asked: Asked) -> Scratch | None:
    """How the picture is scratched; None where it is marked otherwise."""
    spec = asked.spec
    if spec.marking.way != "drag":
        return None
    machine = spec.machine
    return Scratch(
        spec.marking.drag, spec.dots, machine.spot_mm, machine.depth_mm, spec.burn.both_ways
    )


@stage(needs=(aimed, burned_dots, scratch, cell_mm))
def scratched(asked: Asked) -> list[Values]:
    """Return the scratches as they are looked at: mm from the top left corner, y down."""
    found, cell = asked.get(scratch), asked.get(cell_mm)
    if found is None:
        return []
    if found.in_lines:
        return scratch_lines(asked.get(aimed), cell, found.mark_mm, found.dots, found.drag)
    strokes = scratch_dots(asked.get(burned_dots), cell, both_ways=found.both_ways)
    least = found.drag.least_mm
    return [one for one in strokes if not least or np.ptp(one[:, 0]) + cell[0] >= least]


@stage(needs=(scratched, scratch))
def scratch_widths(asked: Asked) -> list[Values]:
    """Return how wide each scratch is at its points, mm."""
    found = asked.get(scratch)
    mark = found.mark_mm if found is not None else 0.0
    return [np.full(len(one), mark) for one in asked.get(scratched)]


@stage(needs=(scratched, scratch_widths, aimed, cell_mm))
def scratched_dots(asked: Asked) -> BitGrid:
    """Return the dots that are scratched by half or more."""
    rows, cols = asked.get(aimed).shape
    strokes, widths = asked.get(scratched), asked.get(scratch_widths)
    return drawn(strokes, widths, (rows, cols), asked.get(cell_mm))


@stage(
    reads=("substrate.ground", "substrate.mark"),
    needs=(scratched, scratch_widths, cell_mm), kind="passing",
)  # fmt: skip
def scratch_proof(asked: Asked, window: Window, lamp_deg: float) -> Pixels:  # noqa: ARG001
    """Return a window of the scratched plate."""
    substrate, share = asked.spec.substrate, _share_in(asked, window)
    ground, mark = linear_of(substrate.ground), linear_of(substrate.mark)
    return shaded(ground, mark, share, np.ones(share.shape, np.float32))


@stage(needs=(scratched, scratch_widths, cell_mm), kind="passing")
def scratch_plan(asked: Asked, window: Window) -> Pixels:
    """Return a window of the scratches, light on dark."""
    codes = np.rint(255 * _share_in(asked, window)).astype(np.uint8)
    return np.repeat(codes[..., None], 3, axis=2)


def _share_in(asked: Asked, window: Window) -> NDArray[np.float32]:
    strokes, widths = asked.get(scratched), asked.get(scratch_widths)
    canvas = covered_in(strokes, widths, window, asked.get(cell_mm))
    size = window.width_px, window.height_px
    found = cv2.resize(canvas, size, interpolation=cv2.INTER_AREA)
    return np.asarray(found / np.float32(255), np.float32)


@value(reads=("burn.speed_mm_s", "burn.passes"))
def pace(asked: Asked) -> tuple[float, int]:
    """How fast the point is drawn, and how often."""
    return asked.spec.burn.speed_mm_s, asked.spec.burn.passes


@stage(needs=(scratched, scratch, lain, writing, pace), kind="passing")
def drag_moves(asked: Asked) -> Iterator[Moves]:
    """Yield the scratches, down and up."""
    found = asked.get(scratch)
    if found is None:
        return
    speed, passes = asked.get(pace)
    strokes = [
        np.column_stack([one, np.full(len(one), -found.depth_mm)])
        for one in asked.get(lain).strokes(asked.get(scratched))
    ]
    for _ in range(passes):
        yield from record_tool(strokes, asked.get(writing), ToolRun(speed, PLUNGE_MM_S))


DRAG = Way(
    "drag",
    "Scratched",
    "A diamond under a spring scratches what is light into dark or polished metal.",
    WAY_MACHINES["drag"],
    ("line", "diffusion", "ordered", "threshold"),
    drag_moves,
    scratched_dots,
    scratch_proof,
    scratch_plan,
    None,
    Words("Toned", "Scratches", "Scratches", "Scratch", "Scratched"),
    card="lines",
)
