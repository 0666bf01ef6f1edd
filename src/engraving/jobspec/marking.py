"""Ways of marking besides dots: relief, carved lines, a drag point; and their tools."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from engraving.jobspec.base import Length, Name, Offset, Part, Percent

WayName = Literal["dots", "relief", "carved", "drag"]
"""What the picture is marked by; continuous power is a dot method of the first."""

BEAMS = ("co2", "diode", "fibre", "other")
WAY_MACHINES: Mapping[str, tuple[str, ...]] = MappingProxyType(
    {"dots": BEAMS, "relief": BEAMS, "carved": ("vtool",), "drag": ("drag",)}
)
"""The kinds of machine that can mark so."""

BOARD_LEFT_MM = 0.2
"""So much of a board stays under the deepest cut (common practice, no source)."""

Heights = tuple[tuple[Annotated[float, Field(ge=-50, le=50)], ...], ...]


class ReliefPart(Part):
    """How deep a depth picture is carved by a beam, and in which passes.

    ``how`` says what a pass does: fire wherever depth is still wanted, or everywhere
    with a power that follows the depth, or whole passes first and the rest by power.
    With ``spread`` the last, partial pass is dithered, so that slopes show no steps.

    The depth's curve: ``gamma`` above 1 keeps more near the surface; what is deeper
    than all but ``flat_ground`` per cent of the depth becomes ground; nothing lies
    deeper than ``floor_mm`` (0: no floor). Walls lean by ``wall_deg`` from upright; a rim
    ``rim_mm`` wide stays as it is.

    ``focus``: on the surface, in the middle of the depth by hand, or lowered by the
    machine every ``focus_every`` passes. After every ``clean_every`` passes (0: never)
    one at ``clean_power`` blows the soot off.
    """

    depth_mm: float = Field(2.0, gt=0, le=200)
    per_pass_mm: float = Field(0.2, gt=0, le=20, description="taken by a pass of the burn")
    how: Literal["passes", "power", "both"] = "passes"
    spread: bool = True
    gamma: float = Field(1.0, ge=0.2, le=5)
    flat_ground: Percent = 0.0
    smooth_mm: float = Field(0.0, ge=0, le=20)
    floor_mm: float = Field(0.0, ge=0, le=200, description="0: none")
    invert: bool = Field(default=False, description="white is far: a mould")
    wall_deg: float = Field(0.0, ge=0, le=60, description="from upright")
    rim_mm: float = Field(0.0, ge=0, le=200)
    focus: Literal["surface", "middle", "follow"] = "surface"
    focus_every: int = Field(5, ge=1, le=500)
    clean_every: int = Field(0, ge=0, le=500, description="0: never")
    clean_power: Percent = 10.0
    clean_speed_mm_s: float = Field(300.0, gt=0, le=20000)

    @model_validator(mode="after")
    def _few_enough(self) -> Self:
        if self.depth_mm / self.per_pass_mm > MOST_PASSES:
            raise ValueError(
                f"{self.depth_mm:g} mm by {self.per_pass_mm:g} mm a pass are more than "
                f"{MOST_PASSES} passes"
            )
        return self


MOST_PASSES = 2000


class ToolPart(Part):
    """A V-tool: a cone whose tip is cut flat, in a spindle."""

    name: Name = "V-tool 90°"
    angle_deg: float = Field(90.0, ge=5, le=170)
    tip_mm: float = Field(0.0, ge=0, le=20, description="width of its flat tip")
    diameter_mm: float = Field(12.0, gt=0, le=100, description="where its cone ends")
    spindle_rpm: int = Field(18000, ge=0, le=200_000)
    warm_up_s: float = Field(3.0, ge=0, le=120)

    @model_validator(mode="after")
    def _a_cone(self) -> Self:
        if self.tip_mm >= self.diameter_mm:
            raise ValueError("the tool's flat tip is as wide as the tool")
        return self


class LevelPart(Part):
    """Heights of a bed, on a grid of equal steps; rows from the front to the back.

    The first lies at ``x_mm``, ``y_mm`` on the bed. Between them heights run straight,
    beyond them they stay.
    """

    x_mm: Offset = 0.0
    y_mm: Offset = 0.0
    step_x_mm: Length = 50.0
    step_y_mm: Length = 50.0
    heights_mm: Heights = ()

    @model_validator(mode="after")
    def _a_grid(self) -> Self:
        wide = {len(row) for row in self.heights_mm}
        if len(wide) > 1 or 0 in wide or len(self.heights_mm) * max(wide, default=0) > 2500:
            raise ValueError("heights are rows of the same length, 2500 of them at most")
        return self


class CarvingPart(Part):
    """How a V-tool carves: how deep at most, how narrow at least, how it moves.

    Lines narrower than ``least_mm`` are not carved: the tool lifts. Between lines it
    travels at the machine's lift, and it goes down into one along its first
    ``ramp_mm``. ``uneven_mm`` is how much the bed's heights differ; where that changes a
    line's width by more than ``most_uneven`` per cent it is told. ``z_step_mm`` is how
    exactly heights are kept.
    """

    tool: ToolPart = ToolPart()
    deepest_mm: float = Field(1.4, gt=0, le=100)
    least_mm: float = Field(0.15, ge=0, le=50, description="narrowest line")
    plunge_mm_s: float = Field(5.0, gt=0, le=1000)
    ramp_mm: float = Field(1.0, ge=0, le=50)
    set_off: bool = Field(default=False, description="every other row of dots by half")
    uneven_mm: float = Field(0.0, ge=0, le=20)
    most_uneven: float = Field(15.0, ge=0, le=500, description="%")
    z_step_mm: float = Field(0.02, gt=0, le=1)
    level: LevelPart | None = None


class DragPart(Part):
    """How a spring-loaded point scratches: tone by how many lines, not by how deep.

    The width of its mark is the machine's spot. Its lines, or its dots, are those of the
    dots' method; crossed lines are scratched again square to the first. Where less than
    ``ground_percent`` is asked for, lines leave the ground bare: a single line across
    it would show.
    """

    crossed: bool = False
    least_mm: float = Field(0.0, ge=0, le=50, description="shorter scratches are left out")
    ground_percent: float = Field(2.0, ge=0, le=50, description="lines leave less than it")


class MarkingPart(Part):
    """What the picture is marked by, and the settings of each way; one of them counts."""

    way: WayName = "dots"
    relief: ReliefPart = ReliefPart()
    carving: CarvingPart = CarvingPart()
    drag: DragPart = DragPart()
