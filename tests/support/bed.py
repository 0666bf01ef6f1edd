"""A bed under the stand-in's camera: its marks burned, blanks laid on it."""

from functools import cache

import numpy as np

from engraving.camera import bed_marks, marks_picture
from engraving.jobspec import MachinePart
from standins.camera import hidden_camera, hidden_surface, lay_blanks, photograph_bed

CARD = hidden_surface((0.75, 0.7, 0.6), (0.1, 0.06, 0.04), 40, 0.12, 3)
WOOD, STEEL, WHITE, SLATE = (
    (0.6, 0.42, 0.24), (0.5, 0.5, 0.52), (0.9, 0.9, 0.88), (0.05, 0.055, 0.06),
)  # fmt: skip
PITCH_MM = 0.2


def bed_of(wide, deep):
    return MachinePart(bed_width_mm=wide, bed_height_mm=deep)


def burned_marks(machine):
    """Strokes that burn the marks of a machine's bed, row by row."""
    picture = marks_picture(machine, PITCH_MM)
    left, front, _, deep = bed_marks(machine).box()
    strokes = []
    for at, row in enumerate(picture):
        y = front + deep - (at + 0.5) * PITCH_MM
        steps = np.diff(np.concatenate([[0], row == 0, [0]]).astype(int))
        for a, b in zip(np.nonzero(steps == 1)[0], np.nonzero(steps == -1)[0], strict=True):
            x0, x1 = left + a * PITCH_MM, left + b * PITCH_MM
            strokes.append((x0, y, x1, y, (x1 - x0) * 0.005, 0))
    return np.array(strokes)


@cache
def _marks_photo(wide, deep, seed):
    machine = bed_of(wide, deep)
    bed = machine.bed_width_mm, machine.bed_height_mm
    return photograph_bed(burned_marks(machine), CARD, bed, [], hidden_camera(seed))


def marks_photo(machine, seed):
    return _marks_photo(machine.bed_width_mm, machine.bed_height_mm, seed)


def laid_photo(machine, pieces, seed):
    """What was laid, and the photo of it."""
    bed = machine.bed_width_mm, machine.bed_height_mm
    laid = lay_blanks(pieces, bed, seed)
    return laid, photograph_bed(np.zeros((0, 6)), None, bed, laid, hidden_camera(seed))
