"""Carved halftones: lines and marks of a V-tool, their width by their depth."""

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.carving import Screen, VTool, carve_screen, within_board
from engraving.colour.hexadecimal import linear_of
from engraving.dots import BitGrid
from engraving.jobspec import WAY_MACHINES, CarvingPart, DotsPart, OperationPart, ToolPart
from engraving.pipeline.stage import Asked, stage, value
from engraving.pipeline.stages.dots import aimed
from engraving.pipeline.stages.settings import cell_mm
from engraving.pipeline.stages.ways.dots import writing
from engraving.pipeline.stages.ways.inside import inside
from engraving.pipeline.stages.ways.way import (
    Pixels,
    Way,
    Words,
    covered_in,
    drawn,
    lain,
)
from engraving.proof import Window
from engraving.proof.plaster import groove_depths, lit, shaded
from engraving.toolpath import Moves
from engraving.toolpath.tool import ToolRun, record_tool

Values = NDArray[np.float64]

_GROOVE = np.float32(0.5)
"""How strongly grooves are lit (own choice)."""
SCREENS = ("line", "wavy", "chevron", "round", "diamond")


@dataclass(frozen=True)
class Cut:
    """How a V-tool carves the picture, and into how thick a board."""

    carving: CarvingPart
    dots: DotsPart
    board_mm: float

    @property
    def tool(self) -> VTool:
        """The tool, limited to its depth and the board's."""
        deepest = within_board(self.carving.deepest_mm, self.board_mm)
        return VTool.of(self.carving.tool, deepest)


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

    mm from the picture's top left corner, y down, and height. Whatever is set, they leave
    enough of the board; that a job sets more is a stop of its check.
    """
    found = asked.get(cut)
    if found is None:
        return []
    screen = Screen(
        asked.get(aimed), asked.get(cell_mm), found.dots, found.tool,
        found.carving.least_mm, found.carving.ramp_mm, found.carving.set_off,
    )  # fmt: skip
    return carve_screen(screen)


@stage(needs=(carved_strokes, cut))
def carved_widths(asked: Asked) -> list[Values]:
    """Return how wide each stroke is cut at its points, mm."""
    found = asked.get(cut)
    if found is None:
        return []
    tool = found.tool
    # Where it touches the surface it is as wide as its tip.
    return [tool.tip_mm - 2 * one[:, 2] * tool.tangent for one in asked.get(carved_strokes)]


@stage(needs=(carved_strokes, carved_widths, aimed, cell_mm))
def carved_dots(asked: Asked) -> BitGrid:
    """Return the dots that are carved away by half or more."""
    rows, cols = asked.get(aimed).shape
    strokes = [one[:, :2] for one in asked.get(carved_strokes)]
    return drawn(strokes, asked.get(carved_widths), (rows, cols), asked.get(cell_mm))


@value(reads=("operations",))
def carving_inside(asked: Asked) -> tuple[OperationPart, ...]:
    """The operations that carve inside outlines."""
    return tuple(one for one in asked.spec.outlines if one.on and one.kind == "inside")


@stage(needs=(carved_strokes, carved_widths, carving_inside, inside, lain, cut))
def all_cuts(asked: Asked) -> tuple[list[Values], list[Values]]:
    """Return all strokes and their widths as they are looked at, letters among them."""
    strokes = [one[:, :2] for one in asked.get(carved_strokes)]
    widths = list(asked.get(carved_widths))
    found = asked.get(cut)
    for operation in asked.get(carving_inside) if found is not None else ():
        part = operation.tool or (found.carving.tool if found is not None else ToolPart())
        tool = VTool(part.angle_deg, part.tip_mm, operation.deepest_mm)
        own = asked.get(lain).seen(asked.get(inside, operation).strokes)
        strokes += [one[:, :2] for one in own]
        widths += [tool.tip_mm - 2 * one[:, 2] * tool.tangent for one in own]
    return strokes, widths


@stage(needs=(all_cuts, cut, cell_mm), kind="passing")
def carved_surface(asked: Asked, window: Window) -> NDArray[np.float32]:
    """Return how deep a window is cut, mm, at the size it is shown."""
    canvas, px_mm = _cut_in(asked, window)
    found = asked.get(cut)
    tangent = found.tool.tangent if found is not None else 1.0
    size = window.width_px, window.height_px
    deep = groove_depths(canvas, px_mm, tangent)
    return np.asarray(cv2.resize(deep, size, interpolation=cv2.INTER_AREA), np.float32)


@stage(
    reads=("substrate.ground", "substrate.mark"),
    needs=(all_cuts, cut, cell_mm), kind="passing",
)  # fmt: skip
def carved_proof(asked: Asked, window: Window, lamp_deg: float) -> Pixels:
    """Return a window of the board as it will look: its two paints, its grooves lit."""
    canvas, px_mm = _cut_in(asked, window)
    found = asked.get(cut)
    tangent = found.tool.tangent if found is not None else 1.0
    grooves = cv2.GaussianBlur(groove_depths(canvas, px_mm, tangent), (0, 0), 1.5)
    light = lit(np.asarray(grooves, np.float32), (px_mm, px_mm), lamp_deg)
    substrate = asked.spec.substrate
    size = window.width_px, window.height_px
    share = cv2.resize(canvas, size, interpolation=cv2.INTER_AREA) / np.float32(255)
    # Only the core's own grooves are lit; the paint lies flat.
    light = 1 + (cv2.resize(light, size, interpolation=cv2.INTER_AREA) - 1) * _GROOVE
    ground, mark = linear_of(substrate.ground), linear_of(substrate.mark)
    return shaded(
        ground, mark, np.asarray(share, np.float32), np.asarray(light, np.float32)
    )


@stage(needs=(all_cuts, cell_mm), kind="passing")
def carved_plan(asked: Asked, window: Window) -> Pixels:
    """Return a window of what is cut, dark on light."""
    canvas, _ = _cut_in(asked, window)
    size = window.width_px, window.height_px
    gray = 255 - cv2.resize(canvas, size, interpolation=cv2.INTER_AREA)
    return np.repeat(np.asarray(gray, np.uint8)[..., None], 3, axis=2)


def _cut_in(asked: Asked, window: Window) -> tuple[Pixels, float]:
    """Return what is cut of a window, twice as fine, and the mm of its pixels."""
    cell = asked.get(cell_mm)
    canvas = covered_in(*asked.get(all_cuts), window, cell)
    return canvas, window.cols * cell[0] / canvas.shape[1]


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
    "Carved",
    "Lines and dots cut by a V-tool, wide where the picture is dark; for boards of two "
    "colours.",
    WAY_MACHINES["carved"],
    ("screen", "line"),
    carved_moves,
    carved_dots,
    carved_proof,
    carved_plan,
    None,
    Words("Toned", "Lines", "Lines", "Carve", "Carved"),
    surface=carved_surface,
    card="lines",
)
