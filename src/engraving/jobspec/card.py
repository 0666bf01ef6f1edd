"""A swatch card: a burned grid of settings to pick from."""

import math
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from engraving.jobspec.base import Name, Part, Percent

CardKind = Literal[
    "power-speed", "power-pitch", "speed-pitch", "gray-ramp", "dot-methods",
    "dpi-ladder", "focus", "row-shift", "roller", "depth", "lines",
]  # fmt: skip
MOST_CELLS_ALONG = 24


class AxisPart(Part):
    """Values along one side of a card, evenly spaced or each so many times the last.

    ``first + (last − first)·i/(n − 1)``, or ``first·(last/first)^(i/(n − 1))``.
    """

    first: float = Field(10.0, ge=-1e5, le=1e5)
    last: float = Field(100.0, ge=-1e5, le=1e5)
    count: int = Field(5, ge=1, le=MOST_CELLS_ALONG)
    even: Literal["steps", "times"] = "steps"

    @property
    def values(self) -> tuple[float, ...]:
        """The values, rounded to what can be set."""
        if self.count == 1:
            return (self.first,)
        shares = [i / (self.count - 1) for i in range(self.count)]
        if self.even == "times":
            ratio = self.last / self.first
            return tuple(_settable(self.first * ratio**share) for share in shares)
        span = self.last - self.first
        return tuple(_settable(self.first + span * share) for share in shares)

    @model_validator(mode="after")
    def _spaced(self) -> Self:
        if self.even == "times" and (self.first <= 0 or self.last <= 0):
            raise ValueError("values that each are so many times the last begin above 0")
        if self.count > 1 and len(set(self.values)) < self.count:
            raise ValueError("the first and the last value are too close for so many")
        return self


def _settable(value: float) -> float:
    """Return a value to three significant digits."""
    if value == 0 or not math.isfinite(value):
        return value
    return round(value, 2 - math.floor(math.log10(abs(value))))


class CardPart(Part):
    """A swatch card, as an ordinary job burns it.

    What is not on an axis, the job's Burn and Blank stations say.
    `label_speed_mm_s` and `label_power` burn letters and corner marks; they
    must mark surely, and need not be pretty.
    """

    kind: CardKind = "power-speed"
    columns: AxisPart = AxisPart()
    rows: AxisPart = AxisPart(first=100, last=500, count=5)
    methods: Annotated[tuple[Name, ...], Field(max_length=MOST_CELLS_ALONG)] = ()
    cell_mm: float = Field(6.0, ge=1, le=60)
    gap_mm: float = Field(2.0, ge=0.2, le=30)
    title: Name = ""
    day: Name = Field("", description="the date that is burned on the card")
    label_speed_mm_s: float = Field(100.0, gt=0, le=20000)
    label_power: Percent = 50.0
    tilted_mm: float = Field(
        0.0, ge=0, le=200, description="rise of the board from the card's front to its back"
    )
