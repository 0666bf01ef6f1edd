"""How the tones that are wanted become the share of dots that gives them."""

from itertools import pairwise
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from engraving.jobspec.base import Part, Percent

Lightness = Annotated[float, Field(ge=0, le=100)]

MOST_PATCHES = 64


class ReproductionPart(Part):
    """How the tones that are wanted become the share of dots that gives them.

    ``plain``: the code says the share. ``linear``: its light does, as if dots
    were exact squares of black on white. ``spot``: the share whose dots,
    burned with this spot on this substrate, come out at the wanted lightness.
    ``measured``: the same from patches somebody burned and measured, as burned
    share in % and lightness L*.
    """

    mode: Literal["plain", "linear", "spot", "measured"] = "plain"
    patches: tuple[tuple[Percent, Lightness], ...] = Field((), max_length=MOST_PATCHES)

    @model_validator(mode="after")
    def _patches_rise(self) -> Self:
        shares = [share for share, _ in self.patches]
        if len(shares) == 1 or any(b <= a for a, b in pairwise(shares)):
            raise ValueError(
                "measured patches must be two or more, each of a larger burned share"
            )
        if self.mode == "measured" and not self.patches:
            raise ValueError(
                "there are no measured patches yet; type or measure them first"
            )
        return self
