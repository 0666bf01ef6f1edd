"""What a controller's settings say of its machine, beside what the shelf says."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from engraving.jobspec import MachinePart

_A_MINUTE = 60.0
_LASER_MODE, _SOFT_LIMITS, _SMALLEST = 32, 20, 31
_ALIKE = 1e-3


@dataclass(frozen=True)
class Value:
    """One value of a machine's part that its controller knows too.

    Attributes
    ----------
    field : str
        Of `MachinePart`.
    number : int
        Of the controller's setting.
    per : float
        What the setting is divided by.
    """

    field: str
    label: str
    unit: str
    number: int
    per: float = 1.0


VALUES = (
    Value("bed_width_mm", "Bed, width", "mm", 130),
    Value("bed_height_mm", "Bed, depth", "mm", 131),
    Value("rapid_mm_s", "Travel speed", "mm/s", 110, _A_MINUTE),
    Value("max_speed_mm_s", "Highest speed along X", "mm/s", 110, _A_MINUTE),
    Value("max_speed_y_mm_s", "Highest speed along Y", "mm/s", 111, _A_MINUTE),
    Value("acceleration_mm_s2", "Acceleration along X", "mm/s²", 120),
    Value("acceleration_y_mm_s2", "Acceleration along Y", "mm/s²", 121),
    Value("junction_mm", "Deviation at corners", "mm", 11),
    Value("s_max", "S of full power", "", 30),
)
"""Numbers of the open line protocol of small motion controllers (from memory)."""


@dataclass(frozen=True)
class Answer:
    """A value as both say it."""

    field: str
    label: str
    unit: str
    theirs: float
    ours: float

    @property
    def said(self) -> str:
        """What the machine says, with its unit."""
        return f"{self.theirs:g} {self.unit}".strip()

    @property
    def kept(self) -> str:
        """What the shelf says, with its unit."""
        return f"{self.ours:g} {self.unit}".strip()

    @property
    def alike(self) -> bool:
        """Whether there is nothing to take."""
        return abs(self.theirs - self.ours) <= _ALIKE * max(abs(self.ours), 1.0)


def planned(part: MachinePart, blocks: int) -> Answer:
    """Return how many moves the controller plans together, beside the shelf's."""
    return Answer("look_ahead", "Moves planned together", "", blocks, part.look_ahead)


def beside(part: MachinePart, settings: Mapping[int, float]) -> list[Answer]:
    """Return what both say, as far as the controller tells it."""
    own = {
        "max_speed_y_mm_s": part.max_speeds[1],
        "acceleration_y_mm_s2": part.accelerations[1],
    }
    return [
        Answer(
            one.field,
            one.label,
            one.unit,
            round(settings[one.number] / one.per, 4),
            float(own.get(one.field, getattr(part, one.field))),
        )
        for one in VALUES
        if settings.get(one.number, 0) > 0
    ]


def spoiling(part: MachinePart, settings: Mapping[int, float]) -> list[str]:
    """Return what would spoil a burn, as sentences."""
    found = []
    if settings.get(_LASER_MODE) == 0:
        found.append(
            "Laser mode is off: the beam stays on between moves, and the head stops at "
            "every change of power. Send $32=1."
        )
    full = settings.get(30, 0)
    if full and abs(full - part.s_max) > _ALIKE:
        share = min(part.s_max / full, 1.0)
        found.append(
            f"Full power is S{full:g} for the machine and S{part.s_max} here: a job burns "
            f"with {100 * share:.0f} % of the power it says."
        )
    if settings.get(_SMALLEST, 0) > 0:
        found.append(
            f"Its smallest S is {settings[_SMALLEST]:g}: a beam of 0 % may still burn."
        )
    for number, ours, name in (
        (130, part.bed_width_mm, "wide"), (131, part.bed_height_mm, "deep"),
    ):  # fmt: skip
        reach = settings.get(number, 0)
        if reach and ours > reach + 1:
            found.append(
                f"The bed is {ours:g} mm {name} here, and the machine reaches {reach:g} mm."
            )
    return found


def unlike(part: MachinePart, told: Mapping[str, Any]) -> tuple[str, ...]:
    """Return what a machine said when it was asked last that is not as the shelf has it.

    Parameters
    ----------
    part : MachinePart
        The machine on the shelf.
    told : mapping
        Its settings by number, as ``settings``; empty where it was never asked.
    """
    settings = {int(key): float(value) for key, value in told.get("settings", {}).items()}
    values = [
        f"{one.label}: {one.said} it says, {one.kept} here"
        for one in beside(part, settings)
        if not one.alike
    ]
    return (*values, *(["laser mode is off"] if settings.get(_LASER_MODE) == 0 else []))
