"""What is done to the picture by hand: mask, frame, retouching, lettering, border."""

from typing import Annotated, Literal

from pydantic import Field

from engraving.jobspec.artwork import Point
from engraving.jobspec.base import Code, Name, Offset, Part, Percent

MOST_EDITS = 400
MOST_STROKE_POINTS = 5000
"""Of a stroke or outline; whoever draws more has to leave some out."""
Points = Annotated[tuple[Point, ...], Field(min_length=1, max_length=MOST_STROKE_POINTS)]
Ring = Annotated[tuple[Point, ...], Field(min_length=3, max_length=MOST_STROKE_POINTS)]
Look = Literal["dark", "light"]
"""How a drawn line looks on the finished piece; what burns follows from the substrate."""


class Stroke(Part):
    """A round brush drawn through points.

    ``size`` is the brush's diameter as a share of the picture's longer side;
    ``softness`` the share of its radius over which it fades.
    """

    points: Points
    size: float = Field(0.05, ge=0.0005, le=1)
    softness: Percent = 30.0


class Hint(Stroke):
    """A stroke that tells a cut-out what belongs to the subject."""

    keep: bool = True


class CutOut(Part):
    """The subject inside an outline, found by its colours."""

    kind: Literal["cutout"] = "cutout"
    outline: Ring
    hints: tuple[Hint, ...] = Field((), max_length=MOST_EDITS)


class Flood(Part):
    """All that is coloured like a point; ``tolerance`` in codes of each channel."""

    kind: Literal["flood"] = "flood"
    at: Point
    tolerance: Code = 24.0
    touching: bool = Field(default=True, description="only what hangs together")
    keep: bool = False


class Brush(Stroke):
    """Erase or restore by hand."""

    kind: Literal["brush"] = "brush"
    keep: bool = False


class Lasso(Part):
    """Erase or restore inside a polygon."""

    kind: Literal["lasso"] = "lasso"
    points: Ring
    keep: bool = False


MaskEdit = Annotated[CutOut | Flood | Brush | Lasso, Field(discriminator="kind")]


class MaskPart(Part):
    """What of the picture is burned; outside it nothing is.

    The edits act in their order on a picture kept whole. ``grow_mm`` widens
    what is kept (below 0 it shrinks), ``feather_mm`` is the width of its soft
    edge, both on the piece. The frame is a shape of its own on top.
    """

    on: bool = True
    edits: tuple[MaskEdit, ...] = Field((), max_length=MOST_EDITS)
    invert: bool = False
    grow_mm: float = Field(0.0, ge=-50, le=50)
    feather_mm: float = Field(0.0, ge=0, le=50)
    frame: Literal["none", "rectangle", "rounded", "oval", "circle"] = "none"
    frame_inset_mm: float = Field(0.0, ge=0, le=500)
    corner_mm: float = Field(5.0, ge=0, le=500)
    vignette_mm: float = Field(0.0, ge=0, le=500, description="soft edge of the frame")


class Shade(Stroke):
    """A stroke that lightens or darkens."""

    lighten: bool = True
    strength: Percent = 30.0


class RetouchPart(Part):
    """Local lightening and darkening, after all tone settings."""

    on: bool = True
    strokes: tuple[Shade, ...] = Field((), max_length=MOST_EDITS)


class TextLine(Part):
    """A line of lettering.

    ``x_mm``, ``y_mm`` place the middle of its baseline from the middle of the
    picture, y away from the operator. ``arc_mm`` is the radius of the circle
    its baseline follows: above 0 it bulges away from the operator, below 0
    towards, 0 is straight. ``spacing_mm`` is added between letters.
    """

    text: str = Field("Text", min_length=1, max_length=200)
    font: Name = "archivo"
    cap_mm: float = Field(5.0, ge=0.2, le=500, description="height of a capital")
    x_mm: Offset = 0.0
    y_mm: Offset = 0.0
    angle_deg: float = Field(0.0, ge=-360, le=360, description="clockwise")
    arc_mm: Offset = 0.0
    spacing_mm: float = Field(0.0, ge=-50, le=50)
    look: Look = "dark"


class LetteringPart(Part):
    """The lines of lettering, drawn in their order."""

    lines: tuple[TextLine, ...] = Field((), max_length=24)


class BorderPart(Part):
    """A line inside the picture's edge, or inside its frame."""

    on: bool = False
    width_mm: float = Field(2.5, gt=0, le=200)
    inset_mm: float = Field(0.0, ge=0, le=500, description="between edge and line")
    look: Look = "dark"
