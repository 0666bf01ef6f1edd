"""A card of lines a tool cuts, at stepped depths and feeds, and what they come to."""

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.cards.layout import Cell, Layout, lay_out, written
from engraving.carving import VTool
from engraving.errors import ArtworkError
from engraving.jobspec import JobSpec
from engraving.lettering import Polyline
from engraving.toolpath import Moves
from engraving.toolpath.tool import ToolRun, record_tool

_LETTERS_MM = 0.15
"""How deep letters are carved."""
_STEEPEST_DEG, _FLATTEST_DEG = 5.0, 170.0


@dataclass(frozen=True)
class ToolFound:
    """What measured lines say of a V-tool.

    Attributes
    ----------
    angle_deg : float
        Between its flanks.
    tip_mm : float
        Width of its flat tip.
    off_mm : float
        How far a width lies beside theirs at most.
    lines : int
    """

    angle_deg: float
    tip_mm: float
    off_mm: float
    lines: int


def tool_found(measured: Iterable[tuple[float, float]]) -> ToolFound:
    """Return the V-tool that cuts lines of some widths at some depths.

    Width is tip + 2 · depth · tan(angle / 2) (plain geometry of a cone), fitted by least
    squares; a tip cannot be narrower than nothing.

    Parameters
    ----------
    measured : iterable of (float, float)
        Depth and width in mm.

    Raises
    ------
    ArtworkError
        When fewer than two depths were measured, or no cone cuts such lines.
    """
    depth, width = np.array(sorted(measured), float).reshape(-1, 2).T
    if len(set(depth.tolist())) < 2:
        raise ArtworkError("Measure lines of two depths at least.")
    slope, tip = np.polyfit(depth, width, 1)
    if tip < 0:
        slope, tip = float((depth * width).sum() / (depth * depth).sum()), 0.0
    angle = math.degrees(2 * math.atan(slope / 2))
    if not _STEEPEST_DEG <= angle <= _FLATTEST_DEG:
        raise ArtworkError("Deeper lines must be wider: no V-tool cuts lines like these.")
    off = np.abs(tip + slope * depth - width).max()
    return ToolFound(angle, float(tip), float(off), len(width))


def record_lines(spec: JobSpec) -> Iterator[Moves]:
    """Yield the moves of a card of lines: its letters, then row by row."""
    layout, machine, carving = lay_out(spec), spec.machine, spec.marking.carving
    tool = carving.tool if machine.kind == "vtool" else None
    corner = np.array([spec.place.x_mm, spec.place.y_mm])

    def run(feed_mm_s: float, strokes: Sequence[NDArray[np.float64]]) -> Iterator[Moves]:
        yield from record_tool(
            strokes, machine, ToolRun(feed_mm_s, carving.plunge_mm_s, tool)
        )

    deep = _LETTERS_MM if tool else machine.depth_mm
    letters = [one for line in layout.letters for one in written(line)]
    feeds = [cell.speed_mm_s for cell in layout.cells]
    if letters:
        yield from run(min(feeds), [_sunk(one + corner, deep) for one in letters])
    for feed, cells in groupby(layout.cells, key=lambda cell: cell.speed_mm_s):
        yield from run(
            feed, [_sunk(_line(spec, cell) + corner, cell.depth_mm) for cell in cells]
        )


def _sunk(line: Polyline, deep_mm: float) -> NDArray[np.float64]:
    return np.column_stack([line, np.full(len(line), -deep_mm)])


def _line(spec: JobSpec, cell: Cell) -> Polyline:
    """Return the way of the tool's middle, so that the line ends within its cell."""
    y, aside = cell.middle[1], min(line_mm(spec, cell.depth_mm), cell.width_mm) / 2
    return np.array([[cell.x_mm + aside, y], [cell.x_mm + cell.width_mm - aside, y]])


def draw_lines(spec: JobSpec, layout: Layout, out: NDArray[np.float32]) -> None:
    """Draw a card of lines on its job's grid, each as wide as it is cut."""
    pitch = spec.size.pitch_mm

    def draw(line: Polyline, wide_mm: float) -> None:
        points = line / pitch
        points[:, 1] = out.shape[0] - points[:, 1]
        whole = np.rint(points * 16 - 8).astype(np.int32)
        wide = max(1, round(wide_mm / pitch))
        cv2.polylines(out, [whole], False, 1.0, wide, cv2.LINE_8, 4)

    for letters in layout.letters:
        for one in written(letters):
            draw(one, line_mm(spec, _LETTERS_MM))
    for cell in layout.cells:
        draw(_line(spec, cell), line_mm(spec, cell.depth_mm))


def line_mm(spec: JobSpec, depth_mm: float) -> float:
    """Return how wide a machine's tool marks at a depth, as it is known so far."""
    if spec.machine.kind != "vtool":
        return spec.machine.spot_mm
    return VTool.of(spec.marking.carving.tool, depth_mm).widest_mm
