"""`JobSpec`: the one description of a raster engraving job, as versioned JSON.

A spec carries values, not references: it holds the machine, substrate and
blank it was made for, so that a job means the same on any computer and after
any change of the shelf. ``docs/job-file.md`` explains each part to people.

Lengths are mm, speeds mm/s, accelerations mm/s², powers and shares %, angles
degrees.
"""

from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import (
    BaseModel,
    ConfigDict,
    Field,
    ValidationError,
    field_validator,
    model_validator,
)

from engraving.errors import JobError
from engraving.units import dots_across, pitch_to_dpi

SPEC_VERSION = 1

LARGEST_MM = 3000.0
"""No piece is wider; a slip of a decimal point is caught here."""
FINEST_PITCH_MM = 0.005
COARSEST_PITCH_MM = 5.0
MOST_DOTS = 400_000_000

Percent = Annotated[float, Field(ge=0, le=100)]
SignedPercent = Annotated[float, Field(ge=-100, le=100)]
Length = Annotated[float, Field(gt=0, le=LARGEST_MM)]
Code = Annotated[float, Field(ge=0, le=255)]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
Name = Annotated[str, Field(max_length=200)]


class Part(BaseModel):
    """A frozen part of a job; unknown keys and non-finite numbers are refused."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Polarity(StrEnum):
    """What the beam does to a substrate."""

    DARKENS = "darkens"
    LIGHTENS = "lightens"


class Scan(StrEnum):
    """The order in which error diffusion visits a row."""

    SERPENTINE = "serpentine"
    ONE_WAY = "one-way"


class Crop(Part):
    """A window on the turned and mirrored artwork, as shares of its sides."""

    left: float = Field(0.0, ge=0, lt=1)
    top: float = Field(0.0, ge=0, lt=1)
    width: float = Field(1.0, gt=0, le=1)
    height: float = Field(1.0, gt=0, le=1)

    @model_validator(mode="after")
    def _stays_inside(self) -> Self:
        if self.left + self.width > 1 + 1e-9 or self.top + self.height > 1 + 1e-9:
            raise ValueError("the crop reaches beyond the picture")
        return self


class ArtworkPart(Part):
    """The picture: which file, and how it is turned and cut.

    The pixel sizes are those after the file's own orientation was applied.
    """

    file: Name = ""
    sha256: str = Field("", pattern=r"^([0-9a-f]{64})?$")
    width_px: int = Field(1, ge=1)
    height_px: int = Field(1, ge=1)
    turns: int = Field(0, ge=0, le=3, description="quarter turns, clockwise")
    mirror: bool = Field(default=False, description="left to right, after turning")
    crop: Crop = Crop()
    lock_ratio: bool = Field(default=False, description="the crop keeps the blank's ratio")

    @property
    def turned_px(self) -> tuple[int, int]:
        """Width and height in pixels after the quarter turns."""
        size = (self.width_px, self.height_px)
        return size if self.turns % 2 == 0 else (size[1], size[0])

    @property
    def window_px(self) -> tuple[int, int, int, int]:
        """Left, top, width and height of the crop in whole pixels."""
        width, height = self.turned_px
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


class BlankPart(Part):
    """The physical thing: a rectangle or a disc, seen from above."""

    name: Name = "Bare bed"
    shape: Literal["rectangle", "disc"] = "rectangle"
    width_mm: Length = 100.0
    height_mm: Length = 100.0
    thickness_mm: float = Field(3.0, ge=0, le=500)
    margin_mm: float = Field(0.0, ge=0, le=500, description="kept clear inside the edge")
    keep_inside: bool = Field(
        default=False, description="dots beyond the edge or on the margin are dropped"
    )


class SubstratePart(Part):
    """What the blank is made of, and how it answers the beam.

    ``response`` is the gain k of the mark ``(1 − exp(−k·E)) / (1 − exp(−k))``
    at energy E, where 1 is the energy of a solid area burned by the recipe.
    """

    name: Name = "Plain pale wood"
    polarity: Polarity = Polarity.DARKENS
    ground: Colour = Field("#d9b88a", description="untouched colour, sRGB")
    mark: Colour = Field("#3b2415", description="colour where fully burned, sRGB")
    response: float = Field(2.2, ge=0.05, le=20)


class SizePart(Part):
    """The engraved rectangle and its grid."""

    width_mm: Length = 80.0
    height_mm: Length = 80.0
    pitch_mm: float = Field(0.1, ge=FINEST_PITCH_MM, le=COARSEST_PITCH_MM)

    @property
    def cols(self) -> int:
        """Dots in a row."""
        return dots_across(self.width_mm, self.pitch_mm)

    @property
    def rows(self) -> int:
        """Rows of the grid."""
        return dots_across(self.height_mm, self.pitch_mm)

    @property
    def dpi(self) -> float:
        """Dots per inch."""
        return pitch_to_dpi(self.pitch_mm)

    @model_validator(mode="after")
    def _fits_memory(self) -> Self:
        if self.cols * self.rows > MOST_DOTS:
            raise ValueError(
                f"{self.cols} × {self.rows} dots are more than this program holds "
                f"({MOST_DOTS // 1_000_000} million); burn smaller or coarser"
            )
        return self


class TonePart(Part):
    """How the picture's tones are changed before dots are made.

    Levels are codes 0…255; ``gamma`` above 1 lightens the middle tones
    (``out = in^(1/gamma)``, a convention); ``sharpen_dots`` is the Gaussian's
    standard deviation in dots.
    """

    on: bool = True
    input_black: Code = 0.0
    gamma: float = Field(1.0, ge=0.1, le=10)
    input_white: Code = 255.0
    output_black: Code = 0.0
    output_white: Code = 255.0
    brightness: SignedPercent = 0.0
    contrast: SignedPercent = 0.0
    sharpen_amount: float = Field(0.0, ge=0, le=500)
    sharpen_dots: float = Field(1.5, ge=0.1, le=50)
    sharpen_threshold: float = Field(0.0, ge=0, le=255)

    @model_validator(mode="after")
    def _black_below_white(self) -> Self:
        if self.input_white - self.input_black < 1:
            raise ValueError("the white point must lie above the black point")
        return self


class DotsPart(Part):
    """How tone becomes dots; `method` is a name of the dot registry."""

    method: Name = "floyd-steinberg"
    scan: Scan = Scan.SERPENTINE
    level: Percent = Field(50.0, description="threshold: darker than this is burned")


class MachinePart(Part):
    """The machine a job is made for."""

    name: Name = "A machine"
    bed_width_mm: Length = 400.0
    bed_height_mm: Length = 400.0
    origin: Literal["front-left", "front-right", "back-left", "back-right"] = "front-left"
    max_speed_mm_s: float = Field(500.0, gt=0, le=20000)
    rapid_mm_s: float = Field(300.0, gt=0, le=20000)
    acceleration_mm_s2: float = Field(3000.0, gt=0, le=500000)
    spot_mm: float = Field(0.1, gt=0, le=10)
    spot_shape: Literal["gaussian", "disc"] = "gaussian"
    rated_power_w: float = Field(40.0, gt=0, le=10000)
    lowest_power: Percent = Field(0.0, description="below this nothing marks")
    s_max: int = Field(1000, ge=1, le=100000, description="S word of full power")
    beam: Literal["M3", "M4"] = "M3"
    decimals: int = Field(3, ge=1, le=5)


class BurnPart(Part):
    """Power, speed and passes; usually what a recipe says."""

    recipe: Name = ""
    speed_mm_s: float = Field(100.0, gt=0, le=20000)
    power: Percent = 40.0
    passes: int = Field(1, ge=1, le=50)
    both_ways: bool = True


class PlacePart(Part):
    """Where the artwork's rectangle lies.

    ``x_mm`` and ``y_mm`` are its lower left corner, measured from the bed's
    front left corner, y away from the operator. `anchor` only says which of
    nine points the operator likes to read.
    """

    x_mm: float = Field(10.0, ge=-LARGEST_MM, le=LARGEST_MM)
    y_mm: float = Field(10.0, ge=-LARGEST_MM, le=LARGEST_MM)
    anchor: str = Field("front-left", pattern=r"^(front|middle|back)-(left|centre|right)$")


class JobSpec(Part):
    """Everything that decides what is burned, and where."""

    format: Literal["old-ember-job"] = "old-ember-job"
    version: Literal[1] = 1
    name: Name = "Untitled"
    artwork: ArtworkPart = ArtworkPart()
    blank: BlankPart = BlankPart()
    substrate: SubstratePart = SubstratePart()
    size: SizePart = SizePart()
    tone: TonePart = TonePart()
    dots: DotsPart = DotsPart()
    machine: MachinePart = MachinePart()
    burn: BurnPart = BurnPart()
    place: PlacePart = PlacePart()

    @field_validator("name")
    @classmethod
    def _one_line(cls, value: str) -> str:
        return " ".join(value.split()) or "Untitled"

    @classmethod
    def from_json(cls, text: str | bytes) -> Self:
        """Read a job from its JSON text.

        Raises
        ------
        JobError
            When the text is not such a job; the message names the place.
        """
        try:
            return cls.model_validate_json(text)
        except ValidationError as error:
            raise JobError(explain(error)) from None


def explain(error: ValidationError) -> str:
    """Return one sentence for the first fault of a validation.

    Examples
    --------
    >>> try:
    ...     SizePart(width_mm=-1)
    ... except ValidationError as error:
    ...     print(explain(error))
    width_mm: Input should be greater than 0; it is -1.
    """
    first = error.errors()[0]
    where = ".".join(str(step) for step in first["loc"]) or "job"
    what = first["msg"].removeprefix("Value error, ")
    found = first.get("input")
    shown = f"; it is {found!r}" if isinstance(found, int | float | str) else ""
    return f"{where}: {what}{shown[:80]}."
