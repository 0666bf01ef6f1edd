"""Carved halftones: lines and marks of a V-tool, their width by their depth."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engraving.carving import Screen, VTool, carve_screen, hold_to_board
from engraving.dots import BitGrid
from engraving.jobspec import CarvingPart, DotsPart, MachinePart
from engraving.pipeline.stage import Asked, stage, value
from engraving.pipeline.stages.dots import aimed
from engraving.pipeline.stages.settings import cell_mm
from engraving.pipeline.stages.ways.dots import WRITTEN
from engraving.pipeline.stages.ways.way import Way, drawn, lain
from engraving.place import as_written
from engraving.toolpath import Moves
from engraving.toolpath.tool import ToolRun, record_tool

Values = NDArray[np.float64]

SCREENS = ("line", "wavy", "chevron", "round", "diamond")


@value(reads=WRITTEN)
def writing(asked: Asked) -> MachinePart:
    """The machine as it moves, with as many decimals as the job needs."""
    return as_written(asked.spec).machine


@dataclass(frozen=True)
class Cut:
    """How a V-tool carves the picture, and into how thick a board."""

    carving: CarvingPart
    dots: DotsPart
    board_mm: float

    @property
    def tool(self) -> VTool:
        """The tool, limited to its depth."""
        return VTool.of(self.carving.tool, self.carving.deepest_mm)


@value(reads=("marking.way", "marking.carving", "dots", "blank.thickness_mm"))
def cut(asked: Asked) -> Cut | None:
    """How the picture is carved; None where it is marked otherwise."""
    spec = asked.spec
    if spec.marking.way != "carved":
        return None
    return Cut(spec.marking.carving, spec.dots, spec.blank.thickness_mm)


@stage(needs=(aimed, cut, cell_mm))
def carved_strokes(asked: Asked) -> list[Values]:
    """Return the strokes of a carved halftone, as it is looked at.

    mm from the picture's top left corner, y down, and height.

    Raises
    ------
    InputError
        When the tool would go too deep for the board.
    """
    found = asked.get(cut)
    if found is None:
        return []
    hold_to_board(found.carving.deepest_mm, found.board_mm)
    screen = Screen(
        asked.get(aimed), asked.get(cell_mm), found.dots, found.tool,
        found.carving.least_mm, found.carving.ramp_mm, found.carving.set_off,
    )  # fmt: skip
    return carve_screen(screen)


@stage(needs=(carved_strokes, cut, aimed, cell_mm))
def carved_dots(asked: Asked) -> BitGrid:
    """Return the dots that are carved away by half or more."""
    strokes, found = asked.get(carved_strokes), asked.get(cut)
    rows, cols = asked.get(aimed).shape
    tool = found.tool if found is not None else VTool(90, 0, 1)
    # Where it touches the surface it is as wide as its tip.
    widths = [tool.tip_mm - 2 * one[:, 2] * tool.tangent for one in strokes]
    return drawn([s[:, :2] for s in strokes], widths, (rows, cols), asked.get(cell_mm))


@value(reads=("burn.speed_mm_s",), needs=(cut,))
def run(asked: Asked) -> ToolRun:
    """How the tool is moved."""
    found = asked.get(cut)
    carving = found.carving if found is not None else CarvingPart()
    return ToolRun(asked.spec.burn.speed_mm_s, carving.plunge_mm_s, carving.tool)


@stage(needs=(carved_strokes, lain, writing, run), kind="passing")
def carved_moves(asked: Asked) -> Iterator[Moves]:
    """Yield the strokes of a carved halftone."""
    strokes = asked.get(lain).strokes(asked.get(carved_strokes))
    yield from record_tool(strokes, asked.get(writing), asked.get(run))


CARVED = Way(
    "carved",
    "Carved lines",
    "Lines and dots cut by a V-tool, wide where the picture is dark; for boards of two "
    "colours.",
    ("vtool",),
    ("screen", "line"),
    carved_moves,
    carved_dots,
)
