"""What is noted of a burn afterwards, and what a job does with one of its burns."""

from collections.abc import Mapping
from typing import Any

from django.db import transaction

from engraving.jobspec import JobSpec
from workshop.bench.lessons.changes import keep_photo
from workshop.bench.models import Run
from workshop.bench.runs.keep import piece_key
from workshop.jobs.models import Job, Revision, Take
from workshop.jobs.revisions.writer import change, relations_of
from workshop.jobs.takes.takes import between, keep_spec
from workshop.jobs.ticket.bin import put_back
from workshop.shelf.recipes.evidence import note_outcome


def note_result(run: Run, said: Mapping[str, Any]) -> None:
    """Note how a piece came out.

    Raises
    ------
    InputError
        When its photo cannot be read.
    """
    noted = {name: said.get(name) or "" for name in ("result", "why", "notes")}
    photo = said.get("photo")
    if photo is not None:
        keep_photo(run, photo)
    run.note(**noted)
    note_outcome(piece_key(run), run.get_result_display() if run.result else "")


def as_burned(run: Run) -> Job:
    """Set a job as it was when it was burned; undo takes that back.

    Raises
    ------
    InputError
        When that is no valid job any more.
    """
    put_back(run.job)
    spec = JobSpec.model_validate(run.spec)
    job = Job.objects.with_all().get(pk=run.job_id)
    relations = _relations(run) or relations_of(job)
    change(job, spec, f"As burned on {run.created:%d %b}", "", relations)
    return job


def _relations(run: Run) -> dict[str, int | None] | None:
    """Return the shelf items that a burned state stood on, where that is known."""
    found = Revision.objects.filter(job=run.job_id, number=run.revision).first()
    return dict(found.relations) if found and found.relations else None


def take_between(first: Run, second: Run, share: float) -> Take:
    """Keep a take between two burns, in the ticket of the first, and make it its state.

    Raises
    ------
    InputError
        When no valid job lies there.
    """
    here, there = (JobSpec.model_validate(one.spec) for one in (first, second))
    spec = between(here, there, share)
    put_back(first.job)
    job = Job.objects.with_all().get(pk=first.job_id)
    relations = _relations(first) or relations_of(job)
    with transaction.atomic():
        take = keep_spec(job, spec, relations, f"{100 * share:.0f} % between two burns")
        change(job, spec, str(take), "", relations)
    return take
