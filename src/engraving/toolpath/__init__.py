"""Dots to moves: the tool path, recorded once and replayed by everyone."""

from engraving.toolpath.moves import Moves
from engraving.toolpath.raster import RasterPath, plan_raster, record

__all__ = ["Moves", "RasterPath", "plan_raster", "record"]
