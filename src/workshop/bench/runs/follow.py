"""Prepare a burn, hand it to the link, and note how it goes.

The link process burns; nothing here is needed for that once it began. A worker that was
away finds the burn again, by what the link says of it, or by its journal.
"""

import hashlib
import json
import time
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from django.utils import timezone

from engraving.errors import EngravingError
from engraving.jobspec import JobSpec
from workshop.bench.models import Run
from workshop.bench.runs.compare import compare
from workshop.bench.runs.files import program_path
from workshop.bench.runs.keep import note_piece
from workshop.bench.runs.timing import learn_from
from workshop.bench.runs.track import bed_window, keep
from workshop.bench.simulator_client import Witness
from workshop.bench.where import baud_of, link, link_lives, witness_of
from workshop.controller.errors import LinkError
from workshop.controller.program import RowTable
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.shell.alone import alone

_EVERY_S = 0.1
PREPARING = "preparing"
_RESTARTED = "The program restarted; this burn was broken off."


def prepare(run: Run) -> None:
    """Write a burn's G-code and hand it to the link; what fails is noted."""
    if run.state != "waiting":
        return
    try:
        with alone(_in_hand(run)):
            # Not before: what is said to be prepared and is held by nobody is given up.
            run.note(held=PREPARING)
            _prepare(run)
    except LinkError as error:
        end(run, "stopped" if _stopped(run) else "failed", told(error, _spec(run)))
    except EngravingError as error:
        end(run, "failed", str(error))
    except OSError as error:
        end(run, "failed", f"It cannot be written, or sent ({error.strerror}).")


def _prepare(run: Run) -> None:
    spec, path = _spec(run), program_path(run)
    tracking = pipeline().tracking(spec, bed_window(spec.machine), run.planned_s)
    with path.open("wb") as stream:
        starts = pipeline().write_run(spec, stream, after=run.first_row, tracking=tracking)
    planned_s = starts.estimate.seconds
    table = RowTable(starts.lines.tolist(), starts.seconds.tolist(), planned_s)
    table.write(path.with_suffix(".rows"))
    with path.open("rb") as written:
        run.note(output_sha256=hashlib.file_digest(written, "sha256").hexdigest())
    keep(run, tracking.found())
    if _stopped(run):
        end(run, "stopped", "")
        return
    witness = witness_of(run.address)
    if witness is not None and not run.first_row:
        _lay_a_fresh_blank(witness, spec)
    where = {"address": run.address, "baud": baud_of(run.machine)}
    link("connect", **where)
    if witness is not None:
        link("settings", **where)
    run.note(rows=len(table.lines), planned_s=planned_s)
    link("start", kind="burn", name=str(run.pk), path=str(path), **where)
    # Not before: what is said to run and is not known to the link counts as broken off.
    run.note(state="running", held="")


def _lay_a_fresh_blank(witness: Witness, spec: JobSpec) -> None:
    try:
        witness.become(spec)
    except OSError as error:
        raise LinkError(
            f"The stand-in controller is not there ({error.strerror})."
        ) from None


def _spec(run: Run) -> JobSpec:
    return JobSpec.model_validate(run.spec)


def _stopped(run: Run) -> bool:
    return bool(Run.objects.filter(pk=run.pk, stop_wanted=True).exists())


def told(error: LinkError, spec: JobSpec) -> str:
    """Return what went wrong on the link in the operator's words."""
    if error.refused and spec.mount.rotary and spec.mount.output == "degrees":
        return f"The machine has no rotary axis set up. {error}"
    return str(error)


def follow(run: Run) -> bool:
    """Note how a burn goes; return whether it is over."""
    try:
        known = link("program", address=run.address, name=str(run.pk))
    except LinkError:
        if link_lives():
            return False  # busy for the moment, and burning on
        known = None
    known = known or _by_journal(run)
    if known is None:
        if Run.objects.filter(pk=run.pk, state="running").exists():
            end(run, "failed", _RESTARTED)
        return True
    note(run, known)
    if known["state"] == "done":
        _finish(run)
    elif known["state"] in ("stopped", "failed"):
        end(run, known["state"], _in_words(known["fault"], run))
    return known["state"] in ("done", "stopped", "failed")


def _in_words(fault: str, run: Run) -> str:
    return told(LinkError(fault, refused="refused line" in fault), _spec(run))


def note(run: Run, known: Mapping[str, Any]) -> None:
    """Note what the link says of a burn."""
    run.note(**_noted(known))


def _noted(known: Mapping[str, Any]) -> dict[str, Any]:
    held = known["state"] if known["state"] in ("holding", "held", "waiting") else ""
    return {
        "held": held,
        "clock_s": known["elapsed_s"],
        "rows_done": known["rows"],
        "remaining_s": known["remaining_s"],
        "trims": known["trims"],
        "holds": known.get("holds", 0),
        "alarms": known.get("alarms", []),
    }


def _by_journal(run: Run) -> dict[str, Any] | None:
    """Return the last that a link process wrote of a burn, if it came to an end.

    One that did not was broken off with the process.
    """
    path = program_path(run).with_suffix(".journal")
    try:
        lines = path.read_text().splitlines()
    except OSError:
        return None
    for line in reversed(lines):
        try:
            known: dict[str, Any] = json.loads(line)
        except ValueError:
            continue  # half a line: the disk was full, or the process was killed
        if known["state"] not in ("done", "stopped", "failed"):
            rows = known["rows"]
            known |= {"state": "failed", "fault": f"{_RESTARTED} {rows} rows are burned."}
        return known
    return None


def _finish(run: Run) -> None:
    if witness_of(run.address) is not None:
        try:
            compare(run, _spec(run))
        except (EngravingError, OSError) as error:
            run.note(error=f"It could not be compared with the plan ({error}).")
    end(run, "done", run.error)
    note_piece(run)
    learn_from(run)
    Job.objects.filter(pk=run.job_id).update(burned_at=timezone.now())


def end(run: Run, state: str, error: str) -> None:
    """Note that a burn is over."""
    run.note(state=state, held="", error=error[:300], ended=timezone.now())


def refreshed(run: Run | None) -> Run | None:
    """Return a burn as the link knows it this moment, not as it was noted last.

    Nothing is written: what it comes to in the end is the worker's to note.
    """
    if run is None or run.state != "running":
        return run
    try:
        known = link("program", address=run.address, name=str(run.pk))
    except LinkError:
        known = None
    for name, value in _noted(known).items() if known else ():
        setattr(run, name, value)
    return run


def follow_to_the_end(run: Run) -> None:
    """Follow a burn until it is over."""
    while run.state == "running" and not follow(run):
        time.sleep(_EVERY_S)


def give_up_left_over() -> None:
    """Close burns that a worker was preparing when it ended; the others go on.

    One that reached the link before the worker could note it burns, and is followed. One
    that no worker has begun with still waits for one.
    """
    for run in Run.objects.filter(state="waiting", held=PREPARING):
        with alone(_in_hand(run)) as nobody:
            if not nobody:
                continue  # another worker is at it
            if program_path(run).with_suffix(".journal").exists():
                run.note(state="running", held="")
            else:
                end(run, "failed", "The program restarted before this burn began.")


def _in_hand(run: Run) -> Path:
    """Return the file that the worker holds which prepares a burn."""
    return program_path(run).with_suffix(".held")
