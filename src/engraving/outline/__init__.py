"""Outlines that are hatched, scored or cut: shapes, tracing, offsets, bridges, files."""

from engraving.outline.bridges import Bridge
from engraving.outline.dxf import read_dxf, write_dxf
from engraving.outline.hatch import hatch_lines
from engraving.outline.order import Path
from engraving.outline.paths import Followed, FollowNotes, follow
from engraving.outline.shapes import (
    Shapes,
    blank_area,
    candidates,
    chosen,
    outline_shape,
    ring_as_burned,
    rings_of,
    without,
)
from engraving.outline.svg import read_svg, write_svg
from engraving.outline.trace import MOST_AREAS, Traced, kept_areas, traced

__all__ = [
    "MOST_AREAS",
    "Bridge",
    "FollowNotes",
    "Followed",
    "Path",
    "Shapes",
    "Traced",
    "blank_area",
    "candidates",
    "chosen",
    "follow",
    "hatch_lines",
    "kept_areas",
    "outline_shape",
    "read_dxf",
    "read_svg",
    "ring_as_burned",
    "rings_of",
    "traced",
    "without",
    "write_dxf",
    "write_svg",
]
