"""The border walk: the head follows the border of the job, the beam off or faint."""

import time
from pathlib import Path

import numpy as np
from django.conf import settings

from engraving.gcode import write_gcode
from engraving.jobspec import JobSpec
from workshop.bench.runs.follow import told
from workshop.bench.runs.start import CannotBurnError, hold_free
from workshop.bench.where import address_of, link_to, witness_of
from workshop.controller.errors import LinkError
from workshop.controller.session import MOST_FAINT
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.stations.place.border import WAYS, walk_moves, way_round

_HAIR_MM = 1e-6
_BEGINS_S, _MOMENT_S, _LINES = 1.0, 0.03, 12


def walk(
    job: Job,
    box_mm: float = 0.0,
    power: float = 0.0,
    *,
    along: str = "border",
    again: bool = False,
) -> None:
    """Send the head round the job.

    Parameters
    ----------
    job : Job
    along : str
        What it goes round, one of `WAYS`.
    box_mm : float
        Height of a box to walk on a wall; 0: the border of all that is burned.
    power : float
        Of the beam, in %.
    again : bool
        Round and round, until it is stopped.

    Raises
    ------
    CannotBurnError
        When the machine is busy or not reached, or the border lies beyond the bed.
    """
    spec = spec_of(job)
    hold_free(job)
    if not (0 <= power <= MOST_FAINT):
        raise CannotBurnError(f"A faint beam has at most {MOST_FAINT:g} %.")
    if not (0 <= box_mm <= spec.machine.bed_height_mm):
        raise CannotBurnError("This box is higher than the bed is deep.")
    if along not in WAYS:
        raise CannotBurnError("There is no such way round the job.")
    lines = way_round(spec, along, box_mm)
    line = np.concatenate(lines)
    axes = 1 if spec.mount.rotary else 2
    most = np.array([spec.machine.bed_width_mm, spec.machine.bed_height_mm])[:axes]
    if (line[:, :axes] < -_HAIR_MM).any() or (line[:, :axes] > most + _HAIR_MM).any():
        raise CannotBurnError("The border reaches beyond the bed.")
    path = _path(job)
    fresh = path.with_suffix(".new")
    with fresh.open("wb") as stream:
        for _ in write_gcode(spec, [walk_moves(spec, lines, power)], stream):
            pass
    fresh.replace(path)  # a walk under way reads the one or the other whole
    _send(job, spec, path, again=again)


def _path(job: Job) -> Path:
    folder = Path(settings.MEDIA_ROOT) / "walks"
    folder.mkdir(parents=True, exist_ok=True)
    return folder / f"{job.number}.gcode"


def _early_fault(job: Job, name: str) -> str:
    """Return why a machine would not even begin; empty once it moves."""
    until = time.monotonic() + _BEGINS_S
    while time.monotonic() < until:
        known = link_to(job.machine, "program", name=name)
        if known is None or known["state"] != "running":
            return str(known["fault"]) if known else ""
        if known["lines"] > _LINES:
            return ""
        time.sleep(_MOMENT_S)
    return ""


def _send(job: Job, spec: JobSpec, path: Path, *, again: bool) -> None:
    witness = witness_of(address_of(job.machine))
    name = f"walk {job.number}"
    try:
        if witness is not None:
            # A hand would have switched the rotary on by now.
            witness.fit_rotary(spec)
        link_to(job.machine, "start", kind="walk", name=name, path=str(path), again=again)
    except LinkError as error:
        raise CannotBurnError(told(error, spec)) from None
    except OSError as error:
        raise CannotBurnError(
            f"The stand-in controller is not there ({error.strerror})."
        ) from None
    if fault := _early_fault(job, name):
        raise CannotBurnError(told(LinkError(fault, refused="refused line" in fault), spec))
