"""Areas that a V-tool carves along their middle: an operation beside the picture."""

from collections.abc import Iterator
from dataclasses import dataclass

from shapely import MultiPolygon
from shapely.affinity import translate

from engraving.carving import Carved, VTool, carve_inside, within_board
from engraving.geometry.polygons import polygons
from engraving.jobspec import CarvingPart, OperationPart
from engraving.outline import outline_shape
from engraving.pipeline.stage import Asked, stage, value
from engraving.pipeline.stages.outline import LIES, areas_found
from engraving.pipeline.stages.ways.dots import writing
from engraving.toolpath import Moves
from engraving.toolpath.tool import ToolRun, record_tool


@dataclass(frozen=True)
class Bench:
    """What an operation inside areas is carved with, and into how thick a board."""

    carving: CarvingPart
    board_mm: float


@value(reads=("marking.carving", "blank.thickness_mm"))
def bench(asked: Asked) -> Bench:
    """What areas are carved with."""
    return Bench(asked.spec.marking.carving, asked.spec.blank.thickness_mm)


@stage(reads=LIES, needs=(areas_found,))
def carved_areas(asked: Asked, operation: OperationPart) -> MultiPolygon:
    """Return the areas an operation carves, on the bed, the piece not yet turned."""
    spec = asked.spec
    shapes = outline_shape(spec, operation, asked.get(areas_found, operation))
    x = spec.place.x_mm + spec.size.width_mm / 2
    y = spec.place.y_mm + spec.size.height_mm / 2
    return polygons(translate(shapes.solid, x, y))


@stage(needs=(carved_areas, bench))
def inside(asked: Asked, operation: OperationPart) -> Carved:
    """Return the strokes that carve an operation's areas, on the bed.

    Whatever is set, they leave enough of the board.
    """
    found = asked.get(bench)
    deepest = within_board(operation.deepest_mm, found.board_mm)
    tool = VTool.of(operation.tool or found.carving.tool, deepest)
    return carve_inside(asked.get(carved_areas, operation), tool, operation.spacing_mm)


@stage(needs=(inside, writing, bench), kind="passing")
def inside_moves(asked: Asked, operation: OperationPart) -> Iterator[Moves]:
    """Yield the moves of an operation inside areas."""
    carving = asked.get(bench).carving
    tool = operation.tool or carving.tool
    run = ToolRun(operation.speed_mm_s, carving.plunge_mm_s, tool)
    yield from record_tool(asked.get(inside, operation).strokes, asked.get(writing), run)
