"""Burn a file of G-code, or walk round it; note how it goes."""

import hashlib
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from django.utils import timezone

from engraving.errors import EngravingError
from engraving.gcode import write_gcode
from engraving.jobspec import JobSpec
from engraving.pipeline.file_path import write_file
from workshop.bench.files.facts import (
    check,
    hand_lines,
    machine_for,
    opener,
    part_of,
    placed,
)
from workshop.bench.models import FileBurn
from workshop.bench.runs.start import (
    ENDS,
    CannotBurnError,
    hold_address_free,
    tool_in_the_air,
)
from workshop.bench.where import address_of, link, link_lives, link_to, witness_of
from workshop.controller.errors import LinkError
from workshop.controller.program import RowTable
from workshop.controller.session import MOST_FAINT
from workshop.jobs.models import GcodeFile
from workshop.jobs.stations.place.border import walk_moves
from workshop.shelf.models import Machine


def _folder(name: str) -> Path:
    folder = Path(settings.MEDIA_ROOT) / "gcode" / name
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def _machine(file: GcodeFile) -> Machine:
    machine = machine_for(file)
    if machine is None:
        raise CannotBurnError("No machine stands on the shelf.")
    hold_address_free(address_of(machine))
    return machine


def walk(file: GcodeFile, power: float) -> None:
    """Send the head round what a file burns, the beam off or faint.

    Raises
    ------
    CannotBurnError
        When it reaches beyond the bed, or the machine is busy or not reached.
    """
    machine = _machine(file)
    part = part_of(machine)
    if not 0 <= power <= MOST_FAINT:
        raise CannotBurnError(f"A faint beam has at most {MOST_FAINT:g} %.")
    left, front, right, back = placed(file, part).burned
    if left < 0 or front < 0 or right > part.bed_width_mm or back > part.bed_height_mm:
        raise CannotBurnError("The border reaches beyond the bed.")
    spec = JobSpec(machine=part)
    corners = [(left, front), (right, front), (right, back), (left, back), (left, front)]
    path = _folder("walks") / f"{file.pk}.gcode"
    with path.open("wb") as stream:
        for _ in write_gcode(spec, [walk_moves(spec, [np.array(corners)], power)], stream):
            pass
    try:
        link_to(machine, "start", kind="walk", name=f"walk file {file.pk}", path=str(path))
    except LinkError as error:
        raise CannotBurnError(str(error)) from None


def burn(file: GcodeFile, *, operator: str, ticked: Sequence[str], seen: bool) -> FileBurn:
    """Burn a file where it lies.

    Parameters
    ----------
    file : GcodeFile
    operator : str
        Who looked at its cautions.
    ticked : sequence of str
        Lines of the list for the hands that are done.
    seen : bool
        Whether the cautions were looked at.

    Raises
    ------
    CannotBurnError
        When a stop holds it, cautions were not looked at, the list is not ticked, or the
        machine is busy or not reached.
    EngravingError
        When it cannot be read.
    """
    machine = _machine(file)
    part = part_of(machine)
    lies = placed(file, part)
    said = check(lies, part)
    if stops := [one.sentence for one in said if one.weight == "stop"]:
        raise CannotBurnError(stops[0])
    if not operator:
        raise CannotBurnError("Type your name: who burns it.")
    if not seen:
        raise CannotBurnError("Look at what was found first, and say that you did.")
    lines = hand_lines(part)
    if missing := [one.what for one in lines if one.slug not in ticked]:
        raise CannotBurnError(f"Not ticked on the list: {', '.join(missing)}.")
    if part.touches and (why := tool_in_the_air(address_of(machine))):
        raise CannotBurnError(why)
    made = FileBurn.objects.create(
        file=file,
        machine=machine,
        address=address_of(machine),
        operator=operator[:40],
        hands=[{"what": one.what, "text": one.text} for one in lines],
        seen=[one.sentence for one in said],
        placing={
            "left": lies.burned[0],
            "front": lies.burned[1],
            "times": lies.placing.times,
        },
    )
    try:
        _begin(made, machine)
    except (LinkError, EngravingError, OSError) as error:
        _end(made, "failed", str(error))
        raise CannotBurnError(str(error)) from None
    return made


def _begin(made: FileBurn, machine: Machine) -> None:
    file, part = made.file, part_of(machine)
    path = _folder(f"burn-{made.pk}") / "file.gcode"
    with path.open("wb") as stream:
        placing = placed(file, part).placing
        starts = write_file(opener(file), part, placing, stream, file.name)
    seconds = starts.estimate.seconds
    table = RowTable(starts.lines.tolist(), starts.seconds.tolist(), seconds)
    table.write(path.with_suffix(".rows"))
    with path.open("rb") as written:
        digest = hashlib.file_digest(written, "sha256").hexdigest()
    _note(made, planned_s=seconds, rows=len(table.lines), output_sha256=digest)
    witness = witness_of(made.address)
    if witness is not None:
        witness.become(JobSpec(machine=part))
    where = {"address": made.address, "baud": machine.baud}
    link("connect", **where)
    if witness is not None:
        link("settings", **where)
    link("start", kind="burn", name=made.link_name, path=str(path), **where)


def _note(made: FileBurn, **fields: Any) -> None:
    FileBurn.objects.filter(pk=made.pk).update(**fields)
    for name, value in fields.items():
        setattr(made, name, value)


def _end(made: FileBurn, state: str, error: str) -> None:
    _note(made, state=state, error=error[:300], ended=timezone.now())


def follow(made: FileBurn) -> None:
    """Note how a burn goes, as the link knows it."""
    if made.state != "running":
        return
    try:
        known: Mapping[str, Any] | None = link(
            "program", address=made.address, name=made.link_name
        )
    except LinkError:
        if link_lives():
            return  # busy for the moment
        known = None
    if known is None:
        _end(made, "failed", "The program restarted; this burn was broken off.")
        return
    _note(made, clock_s=known["elapsed_s"], rows_done=known["rows"])
    if known["state"] in ENDS:
        _end(made, known["state"], str(known["fault"]))


def stop(made: FileBurn) -> str:
    """Stop a burn; return what went wrong."""
    try:
        link("stop", address=made.address, name=made.link_name, hard=False)
    except LinkError as error:
        return str(error)
    return ""
