"""The predicted look of the finished piece, and what a closer look at it finds."""

from engraving.lettering import line_length_mm, thinnest_stroke_mm
from engraving.pipeline.edge_contrast import melting_share
from engraving.pipeline.stage import Asked, stage
from engraving.pipeline.stages.marked import dots
from engraving.pipeline.stages.picture import (
    face,
    mask,
    opacity,
    overlaid,
)
from engraving.pipeline.stages.settings import burns_dark
from engraving.pipeline.stages.tones import palette, spot, toned


@stage(reads=("substrate",), needs=(dots, spot, palette), kind="passing")
def proof(asked: Asked) -> None:
    """What a picture of the proof is painted from: asked for its key only."""


@stage(needs=(mask, opacity, toned, burns_dark))
def melting(asked: Asked) -> float | None:
    """Return how much of the subject's edge looks like its ground."""
    kept, clear = asked.get(mask), asked.get(opacity)
    edge = clear if clear is not None else kept
    if edge is None:
        return None
    ground = None if kept is None else (255.0 if asked.get(burns_dark) else 0.0)
    return melting_share(asked.get(toned), edge, ground)


@stage(needs=(overlaid, face))
def lettered(asked: Asked) -> tuple[tuple[str, float, float], ...]:
    """Return text, thinnest stroke and length in mm of each line of lettering."""
    what = asked.get(overlaid)
    found = []
    for line in what.lettering.lines if what is not None else ():
        glyphs = asked.get(face, line.font)
        stroke, length = thinnest_stroke_mm(glyphs, line), line_length_mm(glyphs, line)
        found.append((line.text, stroke, length))
    return tuple(found)
