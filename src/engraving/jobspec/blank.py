"""The blank, its substrate, the picture's size on it, and which side is looked at."""

import math
from enum import StrEnum
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from engraving.jobspec.base import LARGEST_MM, Colour, Length, Name, Offset, Part, Percent
from engraving.units import dots_across, pitch_to_dpi

FINEST_PITCH_MM = 0.005
COARSEST_PITCH_MM = 5.0
MOST_DOTS = 400_000_000
MOST_APART = 5.0
"""Dots along a row lie at most so many times closer or wider than the rows."""

Shape = Literal["rectangle", "rounded", "disc", "oval", "ring", "wall", "taper", "outline"]
ROUND = ("ring", "wall", "taper")
"""Shapes whose face is a wall, unrolled."""

Texture = Literal["none", "wood", "slate", "brushed", "leather", "stone", "fibre"]
Backing = Literal["none", "white", "black", "mirror", "light"]

Vertex = tuple[Offset, Offset]
"""A point of an outline in mm from the blank's middle, y towards the operator."""
Ring = Annotated[tuple[Vertex, ...], Field(min_length=3, max_length=20_000)]


class Polarity(StrEnum):
    """What the beam does to a substrate."""

    DARKENS = "darkens"
    LIGHTENS = "lightens"


class Area(Part):
    """The engravable part of a face, where it is not simply the face less a margin.

    Its middle lies at ``x_mm``, ``y_mm`` from the blank's, y away from the
    operator.
    """

    shape: Literal["rectangle", "oval"] = "rectangle"
    width_mm: Length = 50.0
    height_mm: Length = 50.0
    x_mm: Offset = 0.0
    y_mm: Offset = 0.0


class BlankPart(Part):
    """The physical thing, its face seen from the side that is looked at.

    For rings and walls the face is the unrolled wall: its width follows from
    the diameter (of a tapered wall, the mean of both).
    """

    name: Name = "Bare bed"
    shape: Shape = "rectangle"
    width_mm: Length = 100.0
    height_mm: Length = 100.0
    thickness_mm: float = Field(3.0, ge=0, le=500)
    corner_mm: float = Field(5.0, ge=0, le=500, description="of a rounded rectangle")
    diameter_mm: float = Field(0.0, ge=0, le=LARGEST_MM / math.pi)
    foot_mm: float = Field(0.0, ge=0, le=LARGEST_MM / math.pi, description="of a taper")
    outline: tuple[Ring, ...] = Field((), max_length=200)
    margin_mm: float = Field(0.0, ge=0, le=500, description="kept clear inside the edge")
    area: Area | None = None
    keep_inside: bool = Field(
        default=False, description="dots beyond the edge or on the margin are dropped"
    )

    @model_validator(mode="before")
    @classmethod
    def _unroll(cls, data: Any) -> Any:
        if not isinstance(data, dict) or data.get("shape") not in ROUND:
            return data
        across, foot = data.get("diameter_mm") or 0, data.get("foot_mm") or 0
        if not isinstance(across, int | float) or not isinstance(foot, int | float):
            return data
        if data["shape"] == "taper" and foot:
            across = (across + foot) / 2
        return {**data, "width_mm": math.pi * across} if across else data

    @model_validator(mode="after")
    def _has_its_measures(self) -> Self:
        if self.shape in ROUND and not self.diameter_mm:
            raise ValueError(f"a {self.shape} needs its diameter")
        if self.shape == "outline" and not self.outline:
            raise ValueError("an outline needs its drawing")
        return self


class SubstratePart(Part):
    """What the blank is made of, and how it answers the beam.

    ``response`` is the gain k of the mark ``(1 − exp(−k·E)) / (1 − exp(−k))``
    at energy E, where 1 is the energy of a solid area burned by the recipe.
    Below ``onset`` of that energy nothing marks; beyond ``scorch_from`` times
    it (0: never) the mark goes over into ``scorch``.

    The look of the material itself, drawn on the proof from a seed:
    ``texture`` with its strength and direction, and of clear material what
    lies behind it.
    """

    name: Name = "Plain pale wood"
    colour: Name = Field("", description="name of the colour variant")
    polarity: Polarity = Polarity.DARKENS
    ground: Colour = Field("#d9b88a", description="untouched colour, sRGB")
    mark: Colour = Field("#3b2415", description="colour where fully burned, sRGB")
    response: float = Field(2.2, ge=0.05, le=20)
    onset: float = Field(0.0, ge=0, le=0.9)
    scorch_from: float = Field(0.0, ge=0, le=20)
    scorch: Colour = Field("#15100c", description="colour where burned too long, sRGB")
    uneven: float = Field(
        0.0, ge=0, le=60, description="%, soft parts carve so much deeper, hard ones less"
    )
    texture: Texture = "none"
    texture_strength: Percent = 50.0
    texture_turned: bool = Field(default=False, description="grain runs up, not across")
    clear: bool = Field(default=False, description="one sees through it")
    worked_from: Literal["front", "back"] = Field(
        "front", description="back: burned from behind, looked at from its face"
    )
    hazard: Literal["none", "chlorine", "old-mirror"] = Field(
        "none", description="chlorine: gives off acid gas under a beam"
    )
    backing: Backing = Field("none", description="what lies behind clear material")


class SizePart(Part):
    """The engraved rectangle, its grid, and where it lies on the blank.

    ``fit`` says how its size follows the blank: the largest that lies inside,
    the smallest that covers it (``bleed_mm`` over on every side), stretched
    to it, or as typed. The offsets lead from the blank's middle to the
    picture's, x to the right, y away from the operator.

    ``pitch_mm`` lies between rows and, unless ``dot_pitch_mm`` says otherwise,
    between the dots of a row.
    """

    width_mm: Length = 80.0
    height_mm: Length = 80.0
    pitch_mm: float = Field(0.1, ge=FINEST_PITCH_MM, le=COARSEST_PITCH_MM)
    dot_pitch_mm: float | None = Field(None, ge=FINEST_PITCH_MM, le=COARSEST_PITCH_MM)
    fit: Literal["inside", "cover", "stretch", "exact"] = "exact"
    lock_ratio: bool = True
    bleed_mm: float = Field(0.0, ge=0, le=100)
    offset_x_mm: Offset = 0.0
    offset_y_mm: Offset = 0.0
    repeat: int = Field(
        1, ge=1, le=100, description="so often the artwork lies side by side"
    )

    @property
    def cols(self) -> int:
        """Dots in a row."""
        return dots_across(self.width_mm, self.along_mm)

    @property
    def rows(self) -> int:
        """Rows of the grid."""
        return dots_across(self.height_mm, self.pitch_mm)

    @property
    def along_mm(self) -> float:
        """Length of a dot along its row."""
        return self.dot_pitch_mm or self.pitch_mm

    @property
    def cell_mm(self) -> tuple[float, float]:
        """Length of a dot along its row, and distance from row to row."""
        return self.along_mm, self.pitch_mm

    @property
    def dpi(self) -> float:
        """Rows per inch."""
        return pitch_to_dpi(self.pitch_mm)

    @model_validator(mode="after")
    def _nearly_square(self) -> Self:
        apart = max(self.cell_mm) / min(self.cell_mm)
        if apart > MOST_APART * (1 + 1e-9):
            raise ValueError(
                f"dots {self.along_mm:g} mm apart on rows {self.pitch_mm:g} mm apart are "
                f"too unlike; one may be {MOST_APART:g} times the other"
            )
        return self

    @model_validator(mode="after")
    def _repeats_evenly(self) -> Self:
        if self.cols % self.repeat:
            raise ValueError(
                f"{self.cols} dots are not {self.repeat} equal parts; "
                "let the picture close round the wall again"
            )
        return self

    @model_validator(mode="after")
    def _fits_memory(self) -> Self:
        if self.cols * self.rows > MOST_DOTS:
            raise ValueError(
                f"{self.cols} × {self.rows} dots are more than this program holds "
                f"({MOST_DOTS // 1_000_000} million); burn smaller or coarser"
            )
        return self


class SidePart(Part):
    """Which side is looked at, and what follows: mirroring, inverting, polarity.

    Each follows by itself ("auto") or is overruled.
    """

    seen_from: Literal["front", "back"] = "front"
    printing_plate: bool = False
    mirror: Literal["auto", "yes", "no"] = "auto"
    invert: Literal["auto", "yes", "no"] = "auto"
    polarity: Literal["auto", "darkens", "lightens"] = "auto"
