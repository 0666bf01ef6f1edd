"""The border walk: the head follows the border of the job, the beam off or faint."""

import io

import numpy as np
from django.conf import settings

from engraving.gcode import write_gcode
from engraving.jobspec import JobSpec
from engraving.place import border_line, rotary_surface
from workshop.bench import simulator_client
from workshop.bench.link import Link, LinkError
from workshop.bench.services.burns import CannotBurnError, hold_free_bench, told
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import spec_of
from workshop.jobs.stations.place.border import border_moves

MOST_POWER = 5.0
"""More than so many percent is no faint beam; it would mark."""
_HAIR_MM = 1e-6


def walk(job: Job, box_mm: float = 0.0, power: float = 0.0) -> None:
    """Send the head round the border.

    Raises
    ------
    CannotBurnError
        When the bench is busy, the machine is not reached, or the border lies
        beyond the bed.
    """
    spec = spec_of(job)
    hold_free_bench()
    if not (0 <= power <= MOST_POWER):
        raise CannotBurnError(f"A faint beam has at most {MOST_POWER:g} %.")
    if not (0 <= box_mm <= spec.machine.bed_height_mm):
        raise CannotBurnError("This box is higher than the bed is deep.")
    line = border_line(spec, box_mm)
    axes = 1 if spec.mount.rotary else 2
    most = np.array([spec.machine.bed_width_mm, spec.machine.bed_height_mm])[:axes]
    if (line[:, :axes] < -_HAIR_MM).any() or (line[:, :axes] > most + _HAIR_MM).any():
        raise CannotBurnError("The border reaches beyond the bed.")
    stream = io.BytesIO()
    for _ in write_gcode(spec, [border_moves(spec, box_mm, power)], stream):
        pass
    _send(job, spec, stream.getvalue())


def _send(job: Job, spec: JobSpec, lines: bytes) -> None:
    url = job.machine.link if job.machine else ""
    baud = job.machine.baud if job.machine else 115200
    try:
        if not url:
            # A hand would have switched the rotary on by now.
            simulator_client.fit_rotary(rotary_surface(spec))
        with Link(
            url or f"socket://127.0.0.1:{settings.CONTROLLER_PORT}", baud=baud
        ) as link:
            for _ in link.send(iter(lines.splitlines(keepends=True))):
                pass
    except LinkError as error:
        raise CannotBurnError(told(error, spec)) from None
    except OSError as error:
        raise CannotBurnError(
            f"The stand-in controller is not there ({error.strerror})."
        ) from None
