"""What files of a job are called."""

import re

from workshop.jobs.models import Job


def plain_name(job: Job) -> str:
    """Return a ticket's number and name in letters that every system takes."""
    plain = re.sub(r"[^a-z0-9]+", "-", job.name.lower()).strip("-") or "job"
    return f"{job.number:04d}-{plain}"
