"""Lettering: fonts, lines of text as outlines in mm, and their dots."""

from engraving.lettering.faces import FONTS, Face, ShippedFont, open_face
from engraving.lettering.layout import line_box_mm, line_length_mm, line_outlines
from engraving.lettering.raster import fill_outlines, thinnest_stroke_mm
from engraving.lettering.strokes import GLYPHS, Polyline, stroke_length_mm, stroke_text

__all__ = [
    "FONTS",
    "GLYPHS",
    "Face",
    "Polyline",
    "ShippedFont",
    "fill_outlines",
    "line_box_mm",
    "line_length_mm",
    "line_outlines",
    "open_face",
    "stroke_length_mm",
    "stroke_text",
    "thinnest_stroke_mm",
]
