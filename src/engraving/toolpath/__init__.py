"""Dots and strokes to moves: the tool path, recorded once and replayed by everyone."""

from engraving.toolpath.moves import Moves
from engraving.toolpath.raster import RasterPath, plan_raster, record
from engraving.toolpath.strokes import record_strokes, run_up_to
from engraving.toolpath.turned import turned_moves

__all__ = [
    "Moves",
    "RasterPath",
    "plan_raster",
    "record",
    "record_strokes",
    "run_up_to",
    "turned_moves",
]
