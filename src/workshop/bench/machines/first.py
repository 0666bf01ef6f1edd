"""The first machine of a workshop: set up by what is typed, or by what it says itself."""

from collections.abc import Mapping
from typing import Any

from workshop.bench.machines.asked import Asked, ask_machine, taken
from workshop.bench.where import link
from workshop.controller.errors import LinkError
from workshop.shelf.machines.changes import begin_machine, remove_machine
from workshop.shelf.models import Machine
from workshop.shelf.starting.recipes import put_recipes

ASKED = ("bed_width_mm", "bed_height_mm", "rated_power_w")


def set_up(data: Mapping[str, Any]) -> Machine:
    """Put the machine on the shelf, and the recipes it begins with.

    Raises
    ------
    InputError
        When what was typed makes no machine.
    """
    machine = begin_machine(
        data["kind"], data["name"], data["link"], {name: data.get(name) for name in ASKED}
    )
    put_recipes(machine)
    return machine


def read_from(data: Mapping[str, Any]) -> tuple[Machine, Asked]:
    """Set a machine up by what its controller says; what was typed of its bed gives way.

    Raises
    ------
    LinkError
        When it is not reached; nothing is on the shelf then.
    InputError
        When what was typed makes no machine.
    """
    machine = begin_machine(
        data["kind"], data["name"], data["link"],
        {"rated_power_w": data.get("rated_power_w")},
    )  # fmt: skip
    try:
        asked = ask_machine(machine)
        taken(machine, asked, {one.field for one in asked.answers})
    except (LinkError, ValueError):
        remove_machine(machine)
        raise
    put_recipes(machine)
    return machine, asked


def ports() -> list[str]:
    """Return the serial ports of this computer; none where the link is not there."""
    try:
        return list(link("ports"))
    except LinkError:
        return []
