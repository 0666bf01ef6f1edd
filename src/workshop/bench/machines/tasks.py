"""What the worker looks after while a machine is probed."""

import time
from dataclasses import asdict
from typing import Any

from huey.contrib.djhuey import HUEY, db_task

from workshop.bench.machines import heights
from workshop.jobs.models import Job

_LOOKS_S, _AT_ONCE_S = 1.0, 0.05


def keep_heights(job: Job, grid: heights.Grid) -> None:
    """Keep what a machine finds, once it has been everywhere."""
    _look(job.pk, asdict(grid), time.time() + heights.LONGEST_S)


@db_task()
def _look(job_id: int, places: dict[str, Any], until: float) -> None:
    """Keep the heights, or look again a moment later: no worker waits meanwhile."""
    job = Job.objects.select_related("machine").get(pk=job_id)
    while (found := heights.ended(job)) is None and HUEY.immediate:
        time.sleep(_AT_ONCE_S)
    if found:
        heights.keep(job, heights.Grid(**places), found)
    elif found is None and time.time() < until:
        _look.schedule((job_id, places, until), delay=_LOOKS_S)
