"""Lettering: fonts, lines of text as outlines in mm, and their dots."""

from engraving.lettering.faces import FONTS, Face, Font, open_face
from engraving.lettering.layout import line_box_mm, line_length_mm, line_outlines
from engraving.lettering.raster import fill_outlines, thinnest_stroke_mm

__all__ = [
    "FONTS",
    "Face",
    "Font",
    "fill_outlines",
    "line_box_mm",
    "line_length_mm",
    "line_outlines",
    "open_face",
    "thinnest_stroke_mm",
]
