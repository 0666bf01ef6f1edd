"""The machine a job is made for: its beam or tool, its bed, its motion, its dialect."""

import math
from itertools import pairwise
from typing import Annotated, Any, Literal, Self

from pydantic import Field, field_validator, model_validator

from engraving.jobspec.base import Length, Name, Offset, Part, Percent

BeamKind = Literal["co2", "diode", "fibre", "other", "drag", "vtool"]
WITHOUT_BEAM = ("drag", "vtool")
"""Tools that mark by touching: they know a depth, and no power."""

LONGEST_LINE = 80
MOST_LENSES = 12
MOST_SHIFTS = 32

Speed = Annotated[float, Field(gt=0, le=20000)]
Acceleration = Annotated[float, Field(gt=0, le=500000)]
Shift = tuple[Speed, Annotated[float, Field(ge=-5, le=5)]]
"""A speed in mm/s, and how far return rows are moved at it, in mm."""

BedPoint = tuple[Annotated[Name, Field(min_length=1)], Offset, Offset]
"""A name, and where on the bed it is: from left and from front, in mm."""
MOST_POINTS = 40


class LensPart(Part):
    """A lens, and the spot it makes: its 1/e² diameter in focus.

    ``known`` says where the spot comes from: nobody measured it yet (``said``),
    wavelength and optics (``computed``), or a focus card (``measured``).
    """

    name: Name = "Lens"
    focal_mm: float = Field(50.8, gt=0, le=2000)
    spot_mm: float = Field(0.1, gt=0, le=10)
    depth_mm: float = Field(0.0, ge=0, le=500, description="of focus; 0 is unknown")
    known: Literal["said", "computed", "measured"] = "said"


class MachinePart(Part):
    """The machine a job is made for.

    Rows run along X unless a job says otherwise; ``max_speed_mm_s`` and
    ``acceleration_mm_s2`` are X's, Y has its own where they are not 0. Z's count
    where a program moves it.
    ``row_shift`` lists by speed how far rows burned backward must be moved
    along the axis to lie over those burned forward.
    """

    name: Name = "A machine"
    kind: BeamKind = "co2"
    wavelength_um: float = Field(10.6, gt=0, le=100)
    bed_width_mm: Length = 400.0
    bed_height_mm: Length = 400.0
    origin: Literal["front-left", "front-right", "back-left", "back-right"] = "front-left"
    x_runs: Literal["auto", "right", "left"] = "auto"
    y_runs: Literal["auto", "back", "front"] = "auto"
    max_speed_mm_s: Speed = 500.0
    max_speed_y_mm_s: float = Field(0.0, ge=0, le=20000)
    rapid_mm_s: Speed = 300.0
    acceleration_mm_s2: Acceleration = 3000.0
    acceleration_y_mm_s2: float = Field(0.0, ge=0, le=500000)
    max_speed_z_mm_s: Speed = 10.0
    acceleration_z_mm_s2: Acceleration = 200.0
    junction_mm: float = Field(
        0.01, ge=0, le=1, description="deviation at corners; 0: a stop at every one"
    )
    look_ahead: int = Field(
        0, ge=0, le=100000, description="moves planned together; 0: as many as it takes"
    )
    lens: Name = Field("", description="the one fitted, of `lenses`")
    lenses: tuple[LensPart, ...] = Field((), max_length=MOST_LENSES)
    beam_diameter_mm: float = Field(0.0, ge=0, le=100, description="at the lens; 0 unknown")
    beam_quality: float = Field(1.0, ge=1, le=1000, description="M²")
    spot_mm: float = Field(0.1, gt=0, le=10)
    spot_shape: Literal["gaussian", "disc"] = "gaussian"
    pulsed: bool = Field(
        default=False, description="a dot is one pulse in its middle, not a stroke"
    )
    rated_power_w: float = Field(40.0, gt=0, le=10000)
    lowest_power: Percent = Field(0.0, description="below this nothing marks")
    s_max: int = Field(1000, ge=1, le=100000, description="S word of full power")
    beam: Literal["M3", "M4"] = "M3"
    decimals: int = Field(3, ge=1, le=5, description="at least")
    most_decimals: int = Field(5, ge=1, le=5, description="the controller reads")
    link_baud: int = Field(0, ge=0, le=10**8, description="of a serial link; 0: none")
    inches: bool = Field(default=False, description="writes G20 and inches")
    line_end: Literal["lf", "crlf"] = "lf"
    short_names: bool = Field(
        default=False, description="reads names of 8 characters and an ending of 3 alone"
    )
    file_ending: str = Field("gcode", pattern=r"^[A-Za-z0-9]{1,8}$")
    file_mb: float = Field(0.0, ge=0, le=100000, description="most of one file; 0: any")
    longest_min: float = Field(
        0.0, ge=0, le=100000, description="jobs that take longer are asked about; 0: none"
    )
    header: str = Field("", max_length=2000, description="lines before a job")
    footer: str = Field("", max_length=2000, description="lines after a job")
    air_on: str = Field("M8", max_length=80)
    air_off: str = Field("M9", max_length=80)
    step_mm: float = Field(
        0.0, ge=0, le=1, description="motion of one motor step; 0 is unknown"
    )
    response_ms: float = Field(
        0.0, ge=0, le=100, description="time the beam takes to come up or go out"
    )
    row_shift: tuple[Shift, ...] = Field((), max_length=MOST_SHIFTS)
    focus_height_mm: float = Field(0.0, ge=0, le=1000, description="lens to surface")
    block_mm: float = Field(0.0, ge=0, le=1000, description="length of the focus block")
    z_axis: bool = Field(default=False, description="the program can move the focus")
    depth_mm: float = Field(0.1, ge=0, le=50, description="of a touching tool's mark")
    lift_mm: float = Field(2.0, ge=0, le=100, description="of a touching tool, between")
    points: tuple[BedPoint, ...] = Field((), max_length=MOST_POINTS)

    @property
    def touches(self) -> bool:
        """Whether the tool marks by touching, without a beam."""
        return self.kind in WITHOUT_BEAM

    @property
    def accelerations(self) -> tuple[float, float]:
        """Acceleration of X and of Y in mm/s²."""
        return self.acceleration_mm_s2, self.acceleration_y_mm_s2 or self.acceleration_mm_s2

    @property
    def max_speeds(self) -> tuple[float, float]:
        """Highest speed of X and of Y in mm/s."""
        return self.max_speed_mm_s, self.max_speed_y_mm_s or self.max_speed_mm_s

    def acceleration_along(self, angle_deg: float) -> float:
        """Return the acceleration along a direction, on the ellipse between the axes."""
        x, y = self.accelerations
        across, up = _axes(angle_deg)
        return x if not up else y if not across else 1 / math.hypot(across / x, up / y)

    def top_speed_along(self, angle_deg: float) -> float:
        """Return how fast the head can run along a direction: no axis beyond its own."""
        x, y = self.max_speeds
        across, up = _axes(angle_deg)
        return x if not up else y if not across else min(x / across, y / up)

    @model_validator(mode="before")
    @classmethod
    def _fitted(cls, data: Any) -> Any:
        """Let the spot be the fitted lens's, unless one of its own was given.

        A spot that is another lens's is what was left when that lens was taken out.
        """
        if not isinstance(data, dict) or not data.get("lenses"):
            return data
        found = [_plain(one) for one in data["lenses"]]
        fitted = [one for one in found if one.get("name") == data.get("lens")] or found[:1]
        spots = [one.get("spot_mm", 0.1) for one in found]
        given = data.get("spot_mm")
        spot = fitted[0].get("spot_mm", 0.1) if given is None or given in spots else given
        return {**data, "lens": fitted[0].get("name", "Lens"), "spot_mm": spot}

    @model_validator(mode="after")
    def _speeds_rise(self) -> Self:
        speeds = [speed for speed, _ in self.row_shift]
        if any(b <= a for a, b in pairwise(speeds)):
            raise ValueError("row shifts are listed by rising speed, each speed once")
        return self

    @field_validator("header", "footer", "air_on", "air_off")
    @classmethod
    def _can_be_sent(cls, value: str) -> str:
        """A controller takes ASCII lines of at most 80 characters."""
        for line in value.splitlines():
            if len(line) > LONGEST_LINE or not line.isascii() or not line.isprintable():
                raise ValueError(
                    f"each line is plain ASCII of at most {LONGEST_LINE} characters"
                )
        return "\n".join(value.splitlines())

    def point(self, name: str) -> tuple[float, float] | None:
        """Return where a stored point lies on the bed; None where there is none."""
        return next(((x, y) for known, x, y in self.points if known == name), None)

    @model_validator(mode="after")
    def _points_differ(self) -> Self:
        names = [name for name, _, _ in self.points]
        if len(set(names)) < len(names):
            raise ValueError("two points of the bed have the same name")
        return self

    @model_validator(mode="after")
    def _lenses_differ(self) -> Self:
        names = [lens.name for lens in self.lenses]
        if len(set(names)) < len(names):
            raise ValueError("two lenses have the same name")
        return self


def _axes(angle_deg: float) -> tuple[float, float]:
    """Return a direction's shares of X and of Y, exact along the axes."""
    quarter = angle_deg % 180
    if quarter in (0, 90):
        return (1.0, 0.0) if quarter == 0 else (0.0, 1.0)
    turn = math.radians(quarter)
    return abs(math.cos(turn)), abs(math.sin(turn))


def _plain(lens: Any) -> dict[str, Any]:
    return lens.model_dump() if isinstance(lens, LensPart) else dict(lens)
