"""What was ticked on the list: kept with the machine, for that is where it was done.

What is the same as for the piece before stays ticked; what is done anew for each piece is
ticked for one job, until that burns.
"""

from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils import timezone

from engraving.jobspec import JobSpec
from workshop.jobs.hands.lines import HandLine, before
from workshop.jobs.models import Job, Tick
from workshop.jobs.revisions.writer import spec_of
from workshop.shelf.models import Machine


@dataclass(frozen=True)
class Done:
    """A line of the list, and whether it is done, or left out on this machine."""

    line: HandLine
    tick: Tick | None
    left_out: bool

    @property
    def open(self) -> bool:
        """Whether it is still to be done."""
        return self.tick is None and not self.left_out


def hand_list(job: Job, spec: JobSpec | None = None) -> list[Done]:
    """Return a job's list as it stands at its machine."""
    spec = spec or spec_of(job)
    if job.machine is None:
        return [Done(one, None, left_out=False) for one in before(job, spec)]
    ticks = {one.slug: one for one in job.machine.ticks.all()}
    out = set(job.machine.left_out)
    return [
        Done(one, _valid(ticks.get(one.slug), one, job), one.slug in out)
        for one in before(job, spec, rotary_was_on="rotary" in ticks)
    ]


def _valid(tick: Tick | None, line: HandLine, job: Job) -> Tick | None:
    if tick is None or tick.text != line.text:
        return None
    return tick if not line.each_piece or tick.job_id == job.pk else None


def tick(job: Job, slug: str, name: str, *, done: bool) -> bool:
    """Tick a line of a job's list, or take the tick back; False where there is no such."""
    machine = job.machine
    line = next((one.line for one in hand_list(job) if one.line.slug == slug), None)
    if machine is None or line is None:
        return False
    if not done:
        machine.ticks.filter(slug=slug).delete()
        return True
    values = {"text": line.text, "job": job, "name": name[:40], "ticked": timezone.now()}
    machine.ticks.update_or_create(slug=slug, defaults=values)
    return True


def leave_out(machine: Machine, slug: str, *, out: bool) -> None:
    """Leave a line out on a machine, or ask for it again; the log says so."""
    with transaction.atomic():
        machine.refresh_from_db(fields=["left_out"])
        kept = [one for one in machine.left_out if one != slug]
        machine.left_out = [*kept, slug] if out else kept
        machine.save(update_fields=["left_out"])


def open_lines(job: Job) -> str:
    """Return what is not ticked yet, as a sentence; empty where all is."""
    left = [one.line.what for one in hand_list(job) if one.open]
    if not left:
        return ""
    few = ", ".join(left[:4]) + (f" and {len(left) - 4} more" if len(left) > 4 else "")
    return f"Not ticked on the list for the hands: {few}."


def as_logged(job: Job) -> list[dict[str, Any]]:
    """Return the list as the log keeps it."""
    return [_logged(one) for one in hand_list(job)]


def _logged(one: Done) -> dict[str, Any]:
    said: dict[str, Any] = {"what": one.line.what, "text": one.line.text}
    if one.tick is not None:
        said |= {"name": one.tick.name, "at": one.tick.ticked.isoformat()}
    return said | ({"left_out": True} if one.left_out else {})


def used_up(job: Job) -> None:
    """Let what is done for each piece be done again for the next one."""
    if job.machine is not None:
        slugs = [one.line.slug for one in hand_list(job) if one.line.each_piece]
        job.machine.ticks.filter(slug__in=slugs).delete()
