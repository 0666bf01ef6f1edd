"""Power, speed and passes: what a job burns with, and a recipe that says so."""

from itertools import pairwise
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from engraving.jobspec.base import Name, Part, Percent
from engraving.jobspec.blank import COARSEST_PITCH_MM, FINEST_PITCH_MM
from engraving.jobspec.marking import ToolPart
from engraving.jobspec.reproduction import MOST_PATCHES, Lightness
from engraving.jobspec.tone import TonePart

OperationKind = Literal["dots", "tone", "hatch", "score", "cut"]
Origin = Literal["start", "carried", "card", "burn", "hand"]
Confidence = Literal["untested", "tried", "proven"]


MOST_PASSES = 50


class BurnSettings(Part):
    """What a recipe settles of a burn, and a burn does as it is told.

    With ``cross`` all passes are burned once more along the other axis.
    ``focus_mm`` is how far the focus lies above the surface.
    """

    speed_mm_s: float = Field(100.0, gt=0, le=20000)
    power: Percent = 40.0
    passes: int = Field(1, ge=1, le=MOST_PASSES)
    both_ways: bool = True
    cross: bool = False
    air: bool = False
    focus_mm: float = Field(0.0, ge=-100, le=100)
    pulse_khz: float = Field(0.0, ge=0, le=10000, description="0: not a pulsed beam")
    pulse_ns: float = Field(0.0, ge=0, le=100000)


BURN_SETTINGS = tuple(BurnSettings.model_fields)


class BurnPart(BurnSettings):
    """Power, speed and passes; usually what a recipe says.

    ``recipe_dose`` is the dose of solid areas in J/mm² that the substrate's
    look is known for; 0 is unknown, and any dose then looks like the recipe's.
    Without a recipe ``begun_with`` names what its settings were taken from, if
    anything. ``rows`` says along which axis they run.
    """

    recipe: Name = ""
    recipe_version: int = Field(0, ge=0, description="of the recipe; 0: by hand")
    recipe_dose: float = Field(0.0, ge=0, le=1e6)
    begun_with: Name = ""
    rows: Literal["x", "y"] = "x"


class RecipePart(BurnSettings):
    """What works for one substrate on one machine, for one kind of operation.

    ``power`` is the highest, ``lowest_power`` that of the lightest tone where
    power is continuous. ``angle_deg`` is of hatch lines; rows of dots run
    along X (0) or Y (90). ``patches`` are measured tones, see
    `ReproductionPart`.
    """

    kind: OperationKind = "dots"
    lens: Name = ""
    lowest_power: Percent = 0.0
    pitch_mm: float = Field(0.1, ge=FINEST_PITCH_MM, le=COARSEST_PITCH_MM)
    method: Name = "floyd-steinberg"
    per_pass_mm: float = Field(
        0.0, ge=0, le=20, description="taken away by a pass of a relief; 0: not measured"
    )
    tool: ToolPart | None = Field(None, description="of a machine that carves")
    tone: TonePart | None = None
    angle_deg: float = Field(0.0, ge=-180, le=180)
    patches: tuple[tuple[Percent, Lightness], ...] = Field((), max_length=MOST_PATCHES)
    cleaning: str = Field("", max_length=1000)
    coating: str = Field("", max_length=1000)
    origin: Origin = "hand"
    origin_note: str = Field("", max_length=500)
    confidence: Confidence = "untested"
    rating: Annotated[int, Field(ge=0, le=5)] = 0
    spot_mm: float = Field(0.0, ge=0, le=10, description="it was made with; 0: unknown")
    rated_power_w: float = Field(0.0, ge=0, le=10000, description="the same of the beam")

    @property
    def rows(self) -> Literal["x", "y"]:
        """The axis along which rows of dots run."""
        return "y" if 45 < abs(self.angle_deg) % 180 < 135 else "x"

    @model_validator(mode="after")
    def _powers_in_order(self) -> Self:
        if self.lowest_power > self.power:
            raise ValueError("the lowest power lies above the highest")
        return self

    @model_validator(mode="after")
    def _patches_rise(self) -> Self:
        shares = [share for share, _ in self.patches]
        if any(b <= a for a, b in pairwise(shares)):
            raise ValueError("measured patches must each have a larger burned share")
        return self
