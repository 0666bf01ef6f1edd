"""`JobSpec`, the whole of a job, and the parts that have no file of their own."""

from typing import Any, Literal, Self

from pydantic import Field, ValidationError, field_validator, model_validator

from engraving.errors import JobError
from engraving.jobspec.artwork import ArtworkPart
from engraving.jobspec.base import LARGEST_MM, Name, Part
from engraving.jobspec.blank import (
    ROUND,
    BlankPart,
    Polarity,
    SidePart,
    SizePart,
    SubstratePart,
)
from engraving.jobspec.burn import BurnPart
from engraving.jobspec.card import CardPart
from engraving.jobspec.dots import DotsPart
from engraving.jobspec.edits import BorderPart, LetteringPart, MaskPart, RetouchPart
from engraving.jobspec.fixture import FixturePart
from engraving.jobspec.machine import MachinePart
from engraving.jobspec.marking import MarkingPart
from engraving.jobspec.marks import MarkPart
from engraving.jobspec.mount import MountPart
from engraving.jobspec.operations import RASTER, OperationPart
from engraving.jobspec.reproduction import ReproductionPart
from engraving.jobspec.tone import TonePart

SPEC_VERSION = 2
MOST_OPERATIONS = 20


class PlacePart(Part):
    """Where the artwork's rectangle lies.

    ``x_mm`` and ``y_mm`` are its lower left corner, measured from the bed's
    front left corner, y away from the operator. `anchor` says which of nine
    points the operator reads. Where ``zero`` is the head, that point of all
    that is burned is written as 0, 0, and lies where the head stands at the
    start; else positions are the machine's own.
    """

    x_mm: float = Field(10.0, ge=-LARGEST_MM, le=LARGEST_MM)
    y_mm: float = Field(10.0, ge=-LARGEST_MM, le=LARGEST_MM)
    turn_deg: float = Field(0.0, ge=-180, le=180)
    zero: Literal["bed", "head", "point"] = "bed"
    point: Name = ""
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
    marking: MarkingPart = MarkingPart()
    dots: DotsPart = DotsPart()
    reproduction: ReproductionPart = ReproductionPart()
    machine: MachinePart = MachinePart()
    burn: BurnPart = BurnPart()
    place: PlacePart = PlacePart()
    mount: MountPart = MountPart()
    operations: tuple[OperationPart, ...] = Field((RASTER,), max_length=MOST_OPERATIONS)
    fixture: FixturePart | None = Field(None, description="several blanks, one a pocket")
    marks: tuple[MarkPart, ...] = Field((), max_length=40, description="never burned")
    card: CardPart | None = Field(None, description="the job burns a swatch card")

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
    def raster(self) -> bool:
        """Whether the picture's rows are burned."""
        return any(one.on for one in self.operations if one.kind == "raster")

    @property
    def outlines(self) -> tuple[OperationPart, ...]:
        """The operations that follow outlines, included or not, in their order."""
        return tuple(one for one in self.operations if one.kind != "raster")

    @property
    def blows_air(self) -> bool:
        """Whether air is on: for the whole file, where anything in it asks for it."""
        outlines = any(one.on and one.air for one in self.outlines)
        return outlines or (self.raster and self.burn.air)

    @property
    def source_per_dot(self) -> float:
        """Pixels of the file for each dot, the way that has fewer."""
        _, _, across, down = self.artwork.window_px
        return min(across * self.size.repeat / self.size.cols, down / self.size.rows)

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
    def _round_pieces_turn(self) -> Self:
        if self.mount.rotary and self.blank.shape not in ROUND:
            raise ValueError("only a ring, a wall or a tapered wall can be turned")
        if self.mount.rotary and self.fixture is not None:
            raise ValueError("a rotary holds one piece, no fixture")
        if self.mount.rotary and any(one.on for one in self.outlines):
            raise ValueError("outlines are scored and cut on a flat bed only")
        if self.mount.rotary and self.place.turn_deg:
            raise ValueError("on a rotary a piece lies straight")
        return self

    @model_validator(mode="after")
    def _one_picture(self) -> Self:
        if sum(one.kind == "raster" for one in self.operations) != 1:
            raise ValueError("a job has its picture once among its operations")
        return self

    @model_validator(mode="after")
    def _kept_dots_fit(self) -> Self:
        fixture = self.fixture
        if fixture is not None and fixture.picture == "across" and self.artwork.keep_dots:
            raise ValueError(
                "artwork made of dots is burned whole; it cannot be cut across the pockets"
            )
        pockets = () if fixture is None or fixture.picture != "own" else fixture.pockets
        for one in (self.artwork, *(pocket.artwork for pocket in pockets)):
            if one is not None and one.keep_dots:
                self._hold_whole_multiples(one)
        return self

    def _hold_whole_multiples(self, artwork: ArtworkPart) -> None:
        _, _, across, down = artwork.window_px
        across *= self.size.repeat
        cols, rows = self.size.cols, self.size.rows
        along, pitch = self.size.cell_mm
        if cols % across or rows % down or cols // across != rows // down:
            raise ValueError(
                f"{across} × {down} dots can only be burned at a whole multiple of "
                f"{across * along:.2f} × {down * pitch:.2f} mm"
            )

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
