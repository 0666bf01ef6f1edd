"""What a machine's page shows, many times a second."""

import json
import threading
import time
from collections.abc import Iterator
from typing import Any

from engraving.jobspec import MachinePart
from engraving.place import frame_of
from workshop.bench.models import Run
from workshop.bench.runs.track import share_before
from workshop.bench.where import address_of, link_to
from workshop.controller.errors import LinkError
from workshop.shelf.models import Machine

_EVERY_S, _FRESH_S = 0.05, 0.04
_BREATH_S = 15.0
_ANSWER_ENDS_S = 600.0
MOST_LISTENERS = 8
_known: dict[int, tuple[float, str]] = {}
_locks: dict[int, threading.Lock] = {}
_listening = threading.BoundedSemaphore(MOST_LISTENERS)


def shown(machine: Machine) -> dict[str, Any]:
    """Return the machine as it is this moment, with places on the bed in mm."""
    part = MachinePart.model_validate(machine.part)
    try:
        known: dict[str, Any] = link_to(machine, "state")
    except LinkError as error:
        known = {"connected": False, "fault": str(error), "messages": [], "program": None}
    known.pop("reports", None)  # they go on; that alone is no news
    place = known.pop("place", None)
    if place:
        known["bed"] = [round(value, 3) for value in frame_of(part).to_bed(*place[:2])]
        known["height"] = place[2]
    program = known.get("program")
    if program and program["kind"] == "burn" and program["name"].isdecimal():
        known["run"] = _run_facts(int(program["name"]))
    if not known.get("busy"):
        known["waiting"] = _getting_ready(machine)
    return known


def _getting_ready(machine: Machine) -> dict[str, Any] | None:
    """Return the burn that is written for a machine just now, before it begins."""
    run = (
        Run.objects.filter(state="waiting", address=address_of(machine))
        .select_related("job")
        .first()
    )
    return {"number": run.job.number, "name": run.job.name} if run else None


def _run_facts(pk: int) -> dict[str, Any] | None:
    run = Run.objects.select_related("job").filter(pk=pk).first()
    if run is None:
        return None
    return {
        "pk": run.pk,
        "number": run.job.number,
        "name": run.job.name,
        "state": run.state,
        "first_row": run.first_row,
        "over": share_before(run.pk, run.first_row) if run.first_row else 0.0,
        "error": run.error,
    }


class TooManyError(Exception):
    """So many pages listen already that this one must ask instead."""


def events(machine: Machine) -> Iterator[bytes]:
    """Yield server-sent events: the machine's state whenever it changed.

    Raises
    ------
    TooManyError
        When no further page can listen.
    """
    if not _listening.acquire(blocking=False):
        raise TooManyError
    return _told(machine)


def _as_told(machine: Machine) -> str:
    """Return the machine's state as JSON; pages that ask at once are told the same."""
    with _locks.setdefault(machine.pk, threading.Lock()):
        at, text = _known.get(machine.pk, (0.0, ""))
        if time.monotonic() - at > _FRESH_S:
            text = json.dumps(shown(machine))
            _known[machine.pk] = time.monotonic(), text
    return text


def _told(machine: Machine) -> Iterator[bytes]:
    try:
        last, said, until = "", time.monotonic(), time.monotonic() + _ANSWER_ENDS_S
        yield b"retry: 500\n\n"
        while time.monotonic() < until:
            text = _as_told(machine)
            now = time.monotonic()
            if text != last:
                last, said = text, now
                yield f"data: {text}\n\n".encode()
            elif now - said > _BREATH_S:
                said = now
                yield b": still here\n\n"
            time.sleep(_EVERY_S)
    finally:
        _listening.release()
