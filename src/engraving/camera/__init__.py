"""A camera above the bed: calibrated by marks, the bed seen from above, blanks found."""

from engraving.camera.blanks import FoundBlank, find_blanks
from engraving.camera.codes import DICTIONARY, MODULES, Quad, find_marks, mark_modules
from engraving.camera.lens import BedCamera, calibrate
from engraving.camera.marks import BedMarks, bed_marks, marks_picture

__all__ = [
    "DICTIONARY",
    "MODULES",
    "BedCamera",
    "BedMarks",
    "FoundBlank",
    "Quad",
    "bed_marks",
    "calibrate",
    "find_blanks",
    "find_marks",
    "mark_modules",
    "marks_picture",
]
