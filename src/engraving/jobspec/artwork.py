"""The picture's part of a job: which file, how it is squared, turned, cut and mixed."""

import math
from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from engraving.jobspec.base import Code, Colour, Name, Part
from engraving.units import dpi_to_pitch

MOST_STRAIGHTEN_DEG = 45.0

Share = Annotated[float, Field(ge=-1, le=2)]
Point = tuple[Share, Share]
"""A point of the upright file, as shares of its width and height from its top left.

Edits are kept there, so that turning or cropping later takes them along.
"""
Corners = tuple[Point, Point, Point, Point]


class Crop(Part):
    """A window on the turned and levelled artwork, as shares of its sides."""

    left: float = Field(0.0, ge=0, lt=1)
    top: float = Field(0.0, ge=0, lt=1)
    width: float = Field(1.0, gt=0, le=1)
    height: float = Field(1.0, gt=0, le=1)

    @classmethod
    def to_ratio(cls, whole: float, wanted: float) -> Self:
        """Return the largest window of a ratio about the middle of a whole of another.

        Both are width over height.

        Examples
        --------
        >>> Crop.to_ratio(2.0, 1.0)
        Crop(left=0.25, top=0.0, width=0.5, height=1.0)
        """
        wide, high = min(wanted / whole, 1.0), min(whole / wanted, 1.0)
        return cls(left=(1 - wide) / 2, top=(1 - high) / 2, width=wide, height=high)

    @model_validator(mode="after")
    def _stays_inside(self) -> Self:
        if self.left + self.width > 1 + 1e-9 or self.top + self.height > 1 + 1e-9:
            raise ValueError("the crop reaches beyond the picture")
        return self


class Ground(StrEnum):
    """What transparent parts of the artwork become."""

    UNBURNED = "unburned"
    WHITE = "white"
    BLACK = "black"
    GRAY = "gray"


class Mix(Part):
    """How much each colour counts for the gray, in linear light.

    Only the ratio matters: grays stay what they are. The default is luminance
    (ITU-R BT.709).
    """

    red: float = Field(21.26, ge=-200, le=300)
    green: float = Field(71.52, ge=-200, le=300)
    blue: float = Field(7.22, ge=-200, le=300)

    @property
    def weights(self) -> tuple[float, float, float]:
        """The three weights; they sum to 1."""
        total = self.red + self.green + self.blue
        return self.red / total, self.green / total, self.blue / total

    @model_validator(mode="after")
    def _has_a_sum(self) -> Self:
        if self.red + self.green + self.blue < 1:
            raise ValueError("red, green and blue together must be at least 1 %")
        return self


class DroppedColour(Part):
    """A colour that becomes white: yellowed paper, a coloured pencil line.

    ``tolerance`` is a distance in CIELAB; up to it a colour goes wholly, and
    not at all beyond one and a half of it.
    """

    colour: Colour
    tolerance: float = Field(20.0, ge=1, le=100)


class ArtworkPart(Part):
    """The picture: which file, and how it is squared, turned and cut.

    The pixel sizes are those of the page after the file's own orientation
    was applied. Order: corners, quarter turns, mirror, straighten, crop.
    """

    file: Name = ""
    sha256: str = Field("", pattern=r"^([0-9a-f]{64})?$")
    page: int = Field(0, ge=0, le=100_000, description="page or frame of the file")
    width_px: int = Field(1, ge=1)
    height_px: int = Field(1, ge=1)
    corners: Corners | None = Field(
        default=None, description="top left, top right, bottom right, bottom left"
    )
    turns: int = Field(0, ge=0, le=3, description="quarter turns, clockwise")
    mirror: bool = Field(default=False, description="left to right, after turning")
    straighten_deg: float = Field(
        0.0, ge=-MOST_STRAIGHTEN_DEG, le=MOST_STRAIGHTEN_DEG, description="clockwise"
    )
    crop: Crop = Crop()
    lock_ratio: bool = Field(default=False, description="the crop keeps the blank's ratio")
    ground: Ground = Ground.UNBURNED
    ground_gray: Code = 128.0
    mix: Mix = Mix()
    dropped: tuple[DroppedColour, ...] = Field((), max_length=12)
    keep_dots: bool = Field(default=False, description="burn its pixels as dots")
    holds: Literal["tones", "depth"] = Field(
        "tones", description="depth: white is near, black is far"
    )

    @property
    def flat_px(self) -> tuple[float, float]:
        """Width and height in pixels after the corners were squared.

        Each is the mean of two opposite sides of the quadrangle.
        """
        if self.corners is None:
            return float(self.width_px), float(self.height_px)
        points = [(x * self.width_px, y * self.height_px) for x, y in self.corners]
        sides = [math.dist(points[i], points[(i + 1) % 4]) for i in range(4)]
        return (sides[0] + sides[2]) / 2, (sides[1] + sides[3]) / 2

    @property
    def turned_px(self) -> tuple[float, float]:
        """Width and height in pixels after the quarter turns."""
        size = self.flat_px
        return size if self.turns % 2 == 0 else (size[1], size[0])

    @property
    def level_px(self) -> tuple[int, int]:
        """Width and height of the levelled picture in whole pixels.

        The largest upright window of the same ratio inside the tilted
        picture, so that no corner is empty.
        """
        width, height = self.turned_px
        angle = math.radians(abs(self.straighten_deg))
        longest = max(width / height, height / width)
        share = 1 / (math.cos(angle) + longest * math.sin(angle))
        return max(1, round(width * share)), max(1, round(height * share))

    @property
    def window_px(self) -> tuple[int, int, int, int]:
        """Left, top, width and height of the crop in whole pixels."""
        width, height = self.level_px
        left = min(round(self.crop.left * width), width - 1)
        top = min(round(self.crop.top * height), height - 1)
        across = min(max(1, round(self.crop.width * width)), width - left)
        down = min(max(1, round(self.crop.height * height)), height - top)
        return left, top, across, down

    @property
    def ratio(self) -> float:
        """Width over height of the cropped picture."""
        _, _, width, height = self.window_px
        return width / height

    def cell_at(self, dpi: tuple[float, float] | None) -> tuple[float, float] | None:
        """Return how far pixels lie apart at the file's resolution, as it is turned.

        Parameters
        ----------
        dpi : tuple of float or None
            Across and down the file as it came.

        Returns
        -------
        tuple of float or None
            Along and across the rows, in mm; None where the file has no resolution.
        """
        if dpi is None or min(dpi) <= 0:
            return None
        across, down = dpi if self.turns % 2 == 0 else dpi[::-1]
        return dpi_to_pitch(across), dpi_to_pitch(down)

    @property
    def is_upright(self) -> bool:
        """Whether its pixels stay a grid: no corners squared, nothing tilted."""
        return self.corners is None and self.straighten_deg == 0

    @model_validator(mode="after")
    def _corners_are_convex(self) -> Self:
        if self.corners is not None:
            points = [(x * self.width_px, y * self.height_px) for x, y in self.corners]
            if min(_turns_right(points)) <= 1:
                raise ValueError(
                    "the four corners must go round clockwise from the top left, "
                    "without crossing or a dent"
                )
        return self

    @model_validator(mode="after")
    def _dots_stay_dots(self) -> Self:
        if self.keep_dots and not self.is_upright:
            raise ValueError(
                "artwork made of dots can only be turned by quarters; "
                "straightening would break its grid"
            )
        return self


def _turns_right(points: list[tuple[float, float]]) -> list[float]:
    """Return the cross products at each corner; all positive when convex, clockwise."""
    found = []
    for i in range(4):
        (ax, ay), (bx, by), (cx, cy) = (points[(i + k) % 4] for k in range(3))
        found.append((bx - ax) * (cy - by) - (by - ay) * (cx - bx))
    return found
