"""What is done to a blank, in order: the picture's rows, and outlines that are followed."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from engraving.jobspec.base import Name, Offset, Part, Percent
from engraving.jobspec.blank import Ring, Vertex
from engraving.jobspec.marking import ToolPart

Line = Annotated[tuple[Vertex, ...], Field(min_length=2, max_length=20_000)]

WorkKind = Literal["raster", "hatch", "inside", "score", "cut"]
MOST_DRAWN_POINTS = 120_000
MOST_DRAWN = 10_000
RANK = {"raster": 0, "hatch": 1, "inside": 1, "score": 2, "cut": 3}
"""Engraving before cutting: what is cut loose may shift."""


class TracePart(Part):
    """Which tones of the picture become areas, and how their edges are drawn.

    Tones are shares of white, 0 black to 100 white. Areas are those no lighter
    than ``lightest`` and no darker than ``darkest``. ``left`` to ``height``
    are the traced part of the picture as shares of it, from its upper left
    corner. Turns sharper than ``corner_deg`` stay corners.
    """

    lightest: Percent = 50.0
    darkest: Percent = 0.0
    smooth_mm: float = Field(0.3, ge=0, le=20)
    least_mm: float = Field(0.5, ge=0, le=100, description="smaller across is dropped")
    corner_deg: float = Field(50.0, ge=0, le=180)
    left: float = Field(0.0, ge=0, le=1)
    top: float = Field(0.0, ge=0, le=1)
    width: float = Field(1.0, gt=0, le=1)
    height: float = Field(1.0, gt=0, le=1)

    @model_validator(mode="after")
    def _a_range(self) -> Self:
        if self.darkest >= self.lightest:
            raise ValueError("the darkest tone traced lies above the lightest")
        return self


class Compound(Part):
    """Rings that are one shape, and how it is filled (SVG 2, fill-rule).

    ``count`` rings from the one at ``first``. Filled is where they wind round a
    place, or else where an odd number of them goes round it.
    """

    first: int = Field(ge=0)
    count: int = Field(ge=1)
    nonzero: bool = False


class DrawingPart(Part):
    """Outlines out of a file, at their true size about their middle.

    Rings that no compound holds are shapes of their own. ``missing`` tells in
    words what the file held besides.
    """

    file: Name = ""
    rings: tuple[Ring, ...] = Field((), max_length=MOST_DRAWN)
    lines: tuple[Line, ...] = Field((), max_length=MOST_DRAWN)
    compounds: tuple[Compound, ...] = Field((), max_length=MOST_DRAWN)
    missing: tuple[Name, ...] = Field((), max_length=50)

    @model_validator(mode="after")
    def _not_too_fine(self) -> Self:
        points = sum(len(one) for one in (*self.rings, *self.lines))
        if points > MOST_DRAWN_POINTS:
            raise ValueError(f"{points} points are more than {MOST_DRAWN_POINTS}")
        past = 0
        for one in self.compounds:
            if one.first < past or one.first + one.count > len(self.rings):
                raise ValueError("a compound holds rings that are not there")
            past = one.first + one.count
        return self


class OperationPart(Part):
    """One thing done to the blank, included or not, seen on the bed or hidden.

    A ``raster`` burns the picture's rows with the job's own speed and power;
    the others follow an outline. Of what ``shape``: the picture's rectangle,
    the same with round corners, the blank's edge, the edge of what the mask
    keeps, areas ``traced`` from the picture, the job's ``lettering`` (which the picture
    then leaves to it), or ``drawn`` ones from a file. The last four are scaled, turned
    and moved about the picture's middle; rings that hold one of the points ``left_out``
    are not used; ``inverted``, all is used that lies around them in a box ``frame_mm``
    wider.

    Ends of a drawing's open lines that lie within ``join_mm`` are one point.

    ``offset_mm`` lies between the shape and the line, outward. A cut takes
    ``kerf_mm`` away, so its line is moved by half of it into the scrap.
    Bridges hold the piece where the beam is off; a hole to hang it by is cut
    first. A ``hatch`` fills areas with lines ``spacing_mm`` apart. ``inside``, a V-tool
    carves areas along their middle, ``deepest_mm`` deep at most; where that limits it,
    their ground is made flat by lines ``spacing_mm`` apart. Without a ``tool`` of its own
    it is the picture's.
    """

    kind: WorkKind = "cut"
    name: Name = ""
    on: bool = True
    seen: bool = True
    shape: Literal[
        "rectangle", "rounded", "blank", "picture", "traced", "lettering", "drawn"
    ] = "rectangle"
    trace: TracePart = TracePart()
    drawing: DrawingPart = DrawingPart()
    join_mm: float = Field(0.05, ge=0, le=5)
    left_out: tuple[Vertex, ...] = Field((), max_length=2000)
    scale_x: float = Field(100.0, ge=0.1, le=10000, description="%")
    scale_y: float = Field(100.0, ge=0.1, le=10000, description="%")
    lock_scale: bool = True
    move_x_mm: Offset = 0.0
    move_y_mm: Offset = 0.0
    turn_deg: float = Field(0.0, ge=-360, le=360)
    inverted: bool = False
    frame_mm: float = Field(2.0, ge=0, le=500)
    offset_mm: float = Field(2.0, ge=-100, le=200)
    corner_mm: float = Field(3.0, ge=0, le=200)
    kerf_mm: float = Field(0.0, ge=0, le=5)
    lead_in_mm: float = Field(0.0, ge=0, le=20)
    bridges: int = Field(0, ge=0, le=40)
    bridge_mm: float = Field(0.6, ge=0.05, le=20)
    bridge_shift: float = Field(
        0.0, ge=-0.5, le=0.5, description="moved on, share of the way to the next"
    )
    hole_mm: float = Field(0.0, ge=0, le=100, description="diameter; 0: none")
    hole_inset_mm: float = Field(5.0, ge=0, le=500, description="from the upper edge")
    spacing_mm: float = Field(0.2, ge=0.01, le=50)
    hatch_deg: float = Field(0.0, ge=-180, le=180)
    cross: bool = Field(default=False, description="hatched once more across")
    recipe: Name = ""
    recipe_version: int = Field(0, ge=0, description="of the recipe; 0: by hand")
    speed_mm_s: float = Field(10.0, gt=0, le=20000)
    power: Percent = 80.0
    passes: int = Field(1, ge=1, le=50)
    air: bool = False
    focus_mm: float = Field(0.0, ge=-100, le=100)
    deepest_mm: float = Field(1.5, gt=0, le=100)
    tool: ToolPart | None = None

    @property
    def placed(self) -> bool:
        """Whether its shape may be scaled, turned, moved, and chosen from."""
        return self.shape in ("picture", "traced", "lettering", "drawn")


RASTER = OperationPart(kind="raster")
