"""How the piece is held: flat on the bed, in a chuck, or on rollers."""

from typing import Literal

from pydantic import Field

from engraving.jobspec.base import Name, Part


class ZonePart(Part):
    """A stretch round the wall that is kept clear: a handle, a spout, a weld.

    ``from_mm`` is measured from the seam, the wall seen unrolled, left to right.
    """

    name: Name = "Handle"
    from_mm: float = Field(0.0, ge=0, le=3000)
    width_mm: float = Field(20.0, gt=0, le=3000)


class MountPart(Part):
    """The mount; choosing a rotary one is switching it on, everywhere.

    A rotary lies along X and takes the place of Y: the wall's length runs
    along X with its ``top`` to one side, the way round is turned.
    ``steps_per_turn`` are the drive's (motor steps × microsteps × gear), of
    the workpiece in a chuck, of the roller on rollers. ``output`` says what is
    written: ``degrees`` on an A axis, or Y ``scaled`` for a controller that
    was set to `y_steps_mm` steps for a millimetre of Y. ``strip_mm`` wide strips
    along the wall are burned one after another, each all round; 0: all at once.
    """

    kind: Literal["flat", "chuck", "rollers"] = "flat"
    top: Literal["left", "right"] = "left"
    steps_per_turn: float = Field(6400.0, gt=0, le=1e7)
    steps_known: Literal["said", "measured"] = "said"
    roller_mm: float = Field(30.0, gt=0, le=500)
    output: Literal["degrees", "scaled"] = "scaled"
    y_steps_mm: float = Field(80.0, gt=0, le=1e5)
    jaw: Name = Field("", description="what holds it, and from where")
    reversed: bool = False
    back_to_start: bool = True
    overlap_mm: float = Field(0.0, ge=0, le=50, description="burned twice at the seam")
    wrap: bool = Field(default=False, description="the picture closes round the wall")
    strip_mm: float = Field(0.0, ge=0, le=3000)
    zones: tuple[ZonePart, ...] = Field((), max_length=20)

    @property
    def rotary(self) -> bool:
        """Whether the piece is turned."""
        return self.kind != "flat"
