"""Drawings of lines (SVG, DXF): read at true size, joined, and what they enclose."""

from engraving.drawing.areas import filled, lines_of
from engraving.drawing.dxf import read_dxf_paths
from engraving.drawing.joined import JOIN_MM, drawn_twice, joined, merged
from engraving.drawing.part import drawing_of
from engraving.drawing.paths import DrawnPath
from engraving.drawing.shapes import DrawnShapes, drawn_shapes, solid
from engraving.drawing.svg import read_svg_paths

__all__ = [
    "JOIN_MM",
    "DrawnPath",
    "DrawnShapes",
    "drawing_of",
    "drawn_shapes",
    "drawn_twice",
    "filled",
    "joined",
    "lines_of",
    "merged",
    "read_dxf_paths",
    "read_svg_paths",
    "solid",
]
