"""A machine asked for its settings, and what of them is taken onto the shelf."""

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from django.utils import timezone

from engraving.jobspec import MachinePart
from workshop.bench.where import link_to
from workshop.shelf.machines.asked import Answer, beside, planned, spoiling
from workshop.shelf.models import Machine

_WHOLE = ("s_max", "look_ahead")


@dataclass(frozen=True)
class Asked:
    """All that a machine said, and what of it would spoil a burn."""

    answers: list[Answer]
    findings: list[str]
    buffer: int
    blocks: int


def ask_machine(machine: Machine) -> Asked:
    """Ask a machine for its settings, and keep what it said.

    Raises
    ------
    LinkError
        When it is not reached.
    """
    told = link_to(machine, "settings")
    settings = {int(number): float(value) for number, value in told["settings"].items()}
    part = MachinePart.model_validate(machine.part)
    machine.told = {"settings": told["settings"], "at": timezone.now().isoformat()}
    machine.save(update_fields=["told"])
    answers, blocks = beside(part, settings), int(told["blocks"])
    if blocks:
        answers.append(planned(part, blocks))
    return Asked(answers, spoiling(part, settings), told["bytes"], blocks)


def take(machine: Machine, fields: list[str]) -> int:
    """Take what a machine says of some fields onto the shelf; return how many.

    Raises
    ------
    LinkError
        When it is not reached.
    """
    return taken(machine, ask_machine(machine), fields)


def taken(machine: Machine, asked: Asked, fields: Collection[str]) -> int:
    """Take what a machine said of some fields onto the shelf; return how many."""
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
