"""Where a machine's controller is reached, and its witness where it is a stand-in."""

from pathlib import Path
from typing import Any

from django.conf import settings

from workshop.bench.simulator_client import Witness
from workshop.controller import client
from workshop.shelf.models import Machine

USUAL_BAUD = 115200


def address_of(machine: Machine | None) -> str:
    """Return where a machine is reached; one without a port of its own is the stand-in."""
    own = machine.link.strip() if machine is not None else ""
    return own or f"socket://127.0.0.1:{settings.CONTROLLER_PORT}"


def baud_of(machine: Machine | None) -> int:
    """Return the rate of a machine's serial port."""
    return machine.baud if machine is not None else USUAL_BAUD


def witness_of(address: str) -> Witness | None:
    """Return the witness of a stand-in, None for a real machine."""
    for controller, witness in standins():
        if address == f"socket://127.0.0.1:{controller}":
            return Witness(witness)
    return None


def standins() -> list[tuple[int, int]]:
    """Return the ports of all stand-ins: controller and witness."""
    more = [(controller, witness) for controller, witness in settings.MORE_STANDINS]
    return [(settings.CONTROLLER_PORT, settings.WITNESS_PORT), *more]


def link(do: str, **words: Any) -> Any:
    """Ask the link process.

    Raises
    ------
    LinkError
        When it cannot be done, or the process is not there.
    """
    return client.ask(Path(settings.LINK_FOLDER), do, **words)


def link_lives() -> bool:
    """Return whether there is a link process, though it may not answer just now."""
    return client.lives(Path(settings.LINK_FOLDER))


def link_to(machine: Machine | None, do: str, **words: Any) -> Any:
    """Ask the link process something about a machine; raises as `link`."""
    return link(do, address=address_of(machine), baud=baud_of(machine), **words)
