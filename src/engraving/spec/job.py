"""`JobSpec`, the whole of a job, and the parts that have no file of their own."""

from typing import Any, Literal, Self

from pydantic import Field, ValidationError, field_validator, model_validator

from engraving.errors import JobError
from engraving.spec.artwork import ArtworkPart
from engraving.spec.base import LARGEST_MM, Length, Name, Part, Percent
from engraving.spec.blank import BlankPart, Polarity, SidePart, SizePart, SubstratePart
from engraving.spec.dots import DotsPart
from engraving.spec.edits import BorderPart, LetteringPart, MaskPart, RetouchPart
from engraving.spec.reproduction import ReproductionPart
from engraving.spec.tone import TonePart

SPEC_VERSION = 2


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
    pulsed: bool = Field(
        default=False, description="a dot is one pulse in its middle, not a stroke"
    )
    rated_power_w: float = Field(40.0, gt=0, le=10000)
    lowest_power: Percent = Field(0.0, description="below this nothing marks")
    s_max: int = Field(1000, ge=1, le=100000, description="S word of full power")
    beam: Literal["M3", "M4"] = "M3"
    decimals: int = Field(3, ge=1, le=5)
    step_mm: float = Field(
        0.0, ge=0, le=1, description="motion of one motor step; 0 is unknown"
    )
    response_ms: float = Field(
        0.0, ge=0, le=100, description="time the beam takes to come up or go out"
    )


class BurnPart(Part):
    """Power, speed and passes; usually what a recipe says.

    ``recipe_dose`` is the dose of solid areas in J/mm² that the substrate's
    look is known for; 0 is unknown, and any dose then looks like the recipe's.
    """

    recipe: Name = ""
    recipe_dose: float = Field(0.0, ge=0, le=1e6)
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
    version: Literal[2] = 2
    name: Name = "Untitled"
    artwork: ArtworkPart = ArtworkPart()
    blank: BlankPart = BlankPart()
    substrate: SubstratePart = SubstratePart()
    side: SidePart = SidePart()
    size: SizePart = SizePart()
    mask: MaskPart = MaskPart()
    tone: TonePart = TonePart()
    retouch: RetouchPart = RetouchPart()
    lettering: LetteringPart = LetteringPart()
    border: BorderPart = BorderPart()
    dots: DotsPart = DotsPart()
    reproduction: ReproductionPart = ReproductionPart()
    machine: MachinePart = MachinePart()
    burn: BurnPart = BurnPart()
    place: PlacePart = PlacePart()

    @property
    def mirrored(self) -> bool:
        """Whether the dots are burned mirrored, left to right."""
        if self.side.mirror != "auto":
            return self.side.mirror == "yes"
        return (self.side.seen_from == "back") != self.side.printing_plate

    @property
    def inverted(self) -> bool:
        """Whether black and white change places before burning."""
        if self.side.invert != "auto":
            return self.side.invert == "yes"
        return self.side.printing_plate

    @property
    def polarity(self) -> Polarity:
        """What the beam does here, as the substrate has it or as overruled."""
        if self.side.polarity != "auto":
            return Polarity(self.side.polarity)
        return self.substrate.polarity

    @property
    def burns_dark(self) -> bool:
        """Whether the picture's dark tones are the ones that are burned."""
        return (self.polarity == Polarity.DARKENS) != self.inverted

    @property
    def source_per_dot(self) -> float:
        """Pixels of the file for each dot, the way that has fewer."""
        _, _, across, down = self.artwork.window_px
        return min(across / self.size.cols, down / self.size.rows)

    @property
    def keeps_dots(self) -> bool:
        """Whether the artwork's own dots are burned; tone and dot method are bypassed."""
        return self.artwork.keep_dots

    @model_validator(mode="before")
    @classmethod
    def _from_older(cls, data: Any) -> Any:
        """Version 1 lacked the parts added since; their defaults mean the same."""
        if isinstance(data, dict) and data.get("version") == 1:
            artwork = {"ground": "white", **data.get("artwork", {})}
            return {**data, "version": SPEC_VERSION, "artwork": artwork}
        return data

    @model_validator(mode="after")
    def _kept_dots_fit(self) -> Self:
        if self.artwork.keep_dots:
            _, _, across, down = self.artwork.window_px
            cols, rows = self.size.cols, self.size.rows
            along, pitch = self.size.cell_mm
            if cols % across or rows % down or cols // across != rows // down:
                raise ValueError(
                    f"{across} × {down} dots can only be burned at a whole multiple of "
                    f"{across * along:.2f} × {down * pitch:.2f} mm"
                )
        return self

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


def sentence(error: ValidationError) -> str:
    """Return the first fault of a validation as an operator reads it, without its place."""
    first = error.errors()[0]
    if first["type"] != "value_error":
        return explain(error)
    text = first["msg"].removeprefix("Value error, ")
    return f"{text[:1].upper()}{text[1:]}."


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
