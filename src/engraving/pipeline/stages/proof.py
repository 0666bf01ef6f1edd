"""The predicted look of the finished piece, and what a closer look at it finds."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import Polarity
from engraving.lettering import line_length_mm, thinnest_stroke_mm
from engraving.pipeline.edge_contrast import melting_share
from engraving.pipeline.stage import Asked, Stage, stage
from engraving.pipeline.stages.dots import card
from engraving.pipeline.stages.marked import dots
from engraving.pipeline.stages.picture import (
    face,
    mask,
    opacity,
    overlaid,
)
from engraving.pipeline.stages.settings import burns_dark, cell_mm, grid_counts
from engraving.pipeline.stages.tones import finished, palette, spot, toned
from engraving.pipeline.stages.ways.carved import all_cuts
from engraving.pipeline.stages.ways.drag import scratch_widths, scratched
from engraving.pipeline.stages.ways.registry import WAYS
from engraving.pipeline.stages.ways.way import Pixels, Way, covered, way_name
from engraving.proof import (
    Palette,
    TwoTone,
    Window,
    dot_palette,
    near_dots,
    shown_dots,
    shown_marks,
)
from engraving.proof.plaster import UPPER_LEFT

_WAYS = tuple(WAYS.values())
_PLANS = tuple(one.plan for one in _WAYS if one.plan is not None)
_TONED = tuple(one.toned for one in _WAYS if one.toned is not None)
_SURFACES = tuple(one.surface for one in _WAYS if one.surface is not None)
_LIKE_DOTS = (dots, spot, palette)


def _way(asked: Asked) -> Way | None:
    """Return the way that counts; None for a swatch card."""
    return None if asked.get(card) is not None else WAYS[asked.get(way_name)]


def _proved_by(asked: Asked) -> tuple[Stage[..., Any], ...]:
    way = _way(asked)
    return (card, *_LIKE_DOTS) if way is None else (card, way.proof)


@stage(
    reads=("substrate",),
    needs=(card, way_name, *_LIKE_DOTS, *(one.proof for one in _WAYS)),
    counts=_proved_by,
    kind="passing",
)
def proof(asked: Asked, window: Window, lamp_deg: float = UPPER_LEFT) -> Pixels:
    """Return a window of the finished piece as sRGB codes, without its texture."""
    way = _way(asked)
    if way is None:
        return shown_marks(asked.get(dots), window, asked.get(spot), asked.get(palette))
    return asked.get(way.proof, window, lamp_deg)


def _shaped_by(asked: Asked) -> tuple[Stage[..., Any], ...]:
    way = _way(asked)
    return (way.surface,) if way is not None and way.surface is not None else ()


@stage(needs=(card, way_name, *_SURFACES), counts=_shaped_by, kind="passing")
def surface(asked: Asked, window: Window) -> NDArray[np.float32] | None:
    """Return how deep a window of the finished piece lies, mm; None where it is flat."""
    way = _way(asked)
    if way is None or way.surface is None:
        return None
    return asked.get(way.surface, window)


def _planned_by(asked: Asked) -> tuple[Stage[..., Any], ...]:
    way = _way(asked)
    own = way.plan if way is not None else None
    return (card, dots, burns_dark) if own is None else (card, own)


@stage(
    needs=(card, way_name, dots, burns_dark, *_PLANS), counts=_planned_by, kind="passing"
)
def plan(asked: Asked, window: Window) -> Pixels:
    """Return a window of what is planned: dots, passes, lines."""
    way = _way(asked)
    if way is not None and way.plan is not None:
        return asked.get(way.plan, window)
    return shown_dots(asked.get(dots), window, _planned_palette(asked))


@stage(
    needs=(card, way_name, dots, burns_dark, *_PLANS), counts=_planned_by, kind="passing"
)
def plan_bits(asked: Asked, window: Window) -> TwoTone | None:
    """Return the same window as bits, where it is dots of two colours; else None."""
    way = _way(asked)
    if way is not None and way.plan is not None:
        return None
    return near_dots(asked.get(dots), window, _planned_palette(asked))


def _planned_palette(asked: Asked) -> Palette:
    return dot_palette(Polarity.DARKENS if asked.get(burns_dark) else Polarity.LIGHTENS)


def _wanted_by(asked: Asked) -> tuple[Stage[..., Any], ...]:
    way = _way(asked)
    return (way.toned if way is not None and way.toned is not None else finished,)


@stage(needs=(card, way_name, finished, *_TONED), counts=_wanted_by, kind="passing")
def wanted(asked: Asked) -> Pixels:
    """Return what is wanted as gray codes on the grid."""
    way = _way(asked)
    return asked.get(finished if way is None or way.toned is None else way.toned)


@stage(needs=(way_name, all_cuts, scratched, scratch_widths, cell_mm, grid_counts))
def cut_share(asked: Asked) -> NDArray[np.float32]:
    """Return which share of each dot a tool cuts or scratches, as it is looked at."""
    cols, rows, _ = asked.get(grid_counts)
    if asked.get(way_name) == "drag":
        strokes, widths = asked.get(scratched), asked.get(scratch_widths)
    else:
        strokes, widths = asked.get(all_cuts)
    return covered(strokes, widths, (rows, cols), asked.get(cell_mm))


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
