"""The line of a machine: tickets that are to be burned on it, one after the other.

A place in the line begins nothing: for each piece somebody lays a blank in, ticks the
list for the hands and presses Burn.
"""

from collections.abc import Sequence

from django.utils import timezone

from engraving.errors import EngravingError
from workshop.jobs.models import Job
from workshop.jobs.stations.registry import change_station
from workshop.shelf.models import Machine


def line_up(jobs: Sequence[Job], machine: Machine | None = None) -> list[str]:
    """Put tickets at the end of a machine's line; return why some were not.

    Parameters
    ----------
    machine : Machine, optional
        For which tickets made for another one are made now; each its own by default.
    """
    refused = []
    for job in jobs:
        try:
            if machine and job.machine_id != machine.pk:
                change_station(job, "burn", {"machine": machine})
        except EngravingError as error:
            refused.append(f"{job}: {error.message}")
            continue
        Job.objects.filter(pk=job.pk).update(lined_up_at=timezone.now())
    return refused


def leave(jobs: Sequence[Job]) -> None:
    """Take tickets out of whatever line they stand in."""
    Job.objects.filter(pk__in=[job.pk for job in jobs]).update(lined_up_at=None)
