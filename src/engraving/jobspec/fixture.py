"""A fixture: pockets that hold blanks, each burned in its turn."""

from typing import Literal, Self

from pydantic import Field, model_validator

from engraving.jobspec.artwork import ArtworkPart
from engraving.jobspec.base import Name, Offset, Part
from engraving.jobspec.tone import TonePart

MOST_POCKETS = 400


class PocketPart(Part):
    """One pocket, and what is its own.

    ``words`` stand in for ``{1}``, ``{2}`` … in the lettering. A pocket with
    a place of its own lies there, measured from the first pocket; others lie
    on the grid. ``turn_deg`` is added to the turn of all. A picture of its own may
    have a tone of its own.
    """

    on: bool = True
    artwork: ArtworkPart | None = None
    tone: TonePart | None = None
    words: tuple[Name, ...] = Field((), max_length=9)
    x_mm: Offset | None = None
    y_mm: Offset | None = None
    turn_deg: float = Field(0.0, ge=-180, le=180)


class FixturePart(Part):
    """Rows and columns of pockets, the first at the front left.

    Gaps lie between the edges of neighbouring blanks. ``picture``: the same
    in every pocket, each its own, or one across all of them; the part of it
    that falls into a gap is then hidden (not burned), or nothing is left out
    and the picture is cut at the blanks' edges (``skipped``).
    ``order``: by rows from the front, by rows or columns to and fro, or the
    shortest way that is found. ``shown`` is the pocket the table looks at.
    ``{n}`` in the lettering is the pocket's number, counted from
    `first_number` in burning order and written with at least ``digits``.
    """

    columns: int = Field(1, ge=1, le=100)
    rows: int = Field(1, ge=1, le=100)
    gap_x_mm: float = Field(5.0, ge=0, le=500)
    gap_y_mm: float = Field(5.0, ge=0, le=500)
    order: Literal["rows", "snake", "columns", "near"] = "snake"
    picture: Literal["same", "own", "across"] = "same"
    gap: Literal["hidden", "skipped"] = "hidden"
    pause: bool = Field(default=False, description="wait for the operator between")
    first_number: int = Field(1, ge=0, le=10**9)
    digits: int = Field(1, ge=1, le=9)
    shown: int = Field(0, ge=0)
    pockets: tuple[PocketPart, ...] = Field((), max_length=MOST_POCKETS)

    @property
    def count(self) -> int:
        """How many pockets there are."""
        return self.columns * self.rows

    def pocket(self, index: int) -> PocketPart:
        """Return a pocket; one nobody said anything of is a plain one."""
        return self.pockets[index] if index < len(self.pockets) else PocketPart()

    @model_validator(mode="after")
    def _fits(self) -> Self:
        if self.count > MOST_POCKETS:
            raise ValueError(f"a fixture holds at most {MOST_POCKETS} pockets")
        return self
