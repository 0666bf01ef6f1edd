"""What a machine says of itself, beside what the shelf says of it."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from engraving.jobspec import MachinePart
from workshop.bench.where import link_to
from workshop.shelf.models import Machine

_A_MINUTE = 60.0
_LASER_MODE, _SOFT_LIMITS, _SMALLEST = 32, 20, 31
_ALIKE = 1e-3
_WHOLE = ("s_max", "look_ahead")


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


@dataclass(frozen=True)
class Asked:
    """All that a machine said, and what of it would spoil a burn."""

    answers: list[Answer]
    findings: list[str]
    buffer: int
    blocks: int


def ask_machine(machine: Machine) -> Asked:
    """Ask a machine for its settings.

    Raises
    ------
    LinkError
        When it is not reached.
    """
    told = link_to(machine, "settings")
    settings = {int(number): float(value) for number, value in told["settings"].items()}
    part = MachinePart.model_validate(machine.part)
    answers, blocks = _beside(part, settings), int(told["blocks"])
    if blocks:
        answers.append(_planned(part, blocks))
    return Asked(answers, _findings(part, settings), told["bytes"], blocks)


def _planned(part: MachinePart, blocks: int) -> Answer:
    return Answer("look_ahead", "Moves planned together", "", blocks, part.look_ahead)


def _beside(part: MachinePart, settings: Mapping[int, float]) -> list[Answer]:
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


def _findings(part: MachinePart, settings: Mapping[int, float]) -> list[str]:
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


def take(machine: Machine, fields: list[str]) -> int:
    """Take what a machine says of some fields onto the shelf; return how many.

    Raises
    ------
    LinkError
        When it is not reached.
    """
    asked = ask_machine(machine)
    wanted: dict[str, Any] = {
        one.field: round(one.theirs) if one.field in _WHOLE else one.theirs
        for one in asked.answers
        if one.field in fields and not one.alike
    }
    if wanted:
        part = MachinePart.model_validate(machine.part | wanted)
        machine.part = part.model_dump(mode="json")
        machine.save(update_fields=["part"])
    return len(wanted)
