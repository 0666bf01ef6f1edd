"""Carving with a V-tool: widths become depths; lines, marks and areas become strokes."""

from engraving.carving.inside import Carved, carve_inside
from engraving.carving.lines import Screen, carve_screen
from engraving.carving.vtool import VTool, hold_to_board, within_board

__all__ = [
    "Carved",
    "Screen",
    "VTool",
    "carve_inside",
    "carve_screen",
    "hold_to_board",
    "within_board",
]
