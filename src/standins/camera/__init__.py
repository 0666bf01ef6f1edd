"""A camera that looks at what the stand-in controller burned, and at the bed."""

from standins.camera.bed import Hung, Lying, hidden_camera, lay_blanks, photograph_bed
from standins.camera.picture import View, photograph
from standins.camera.surface import Surface, hidden_surface, marks_of

__all__ = [
    "Hung",
    "Lying",
    "Surface",
    "View",
    "hidden_camera",
    "hidden_surface",
    "lay_blanks",
    "marks_of",
    "photograph",
    "photograph_bed",
]
