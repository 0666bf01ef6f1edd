"""The bin: tickets that were taken off the rack, for thirty days."""

from collections.abc import Iterable
from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from workshop.jobs.models import Artwork, Job, Revision, Take
from workshop.jobs.pictures.store import artwork_path, proof_path

KEPT_DAYS = 30


def remove(job: Job) -> None:
    """Take a ticket off the rack and put it into the bin."""
    Job.everything.filter(pk=job.pk).update(removed_at=timezone.now())


def put_back(job: Job) -> None:
    """Hang a ticket on the rack again."""
    Job.everything.filter(pk=job.pk).update(removed_at=None)


def in_bin() -> list[Job]:
    """Return the tickets in the bin, the newest first."""
    found = Job.everything.exclude(removed_at=None).with_all()
    return list(found.order_by("-removed_at"))


def days_left(job: Job) -> int:
    """Return how many days a ticket still lies in the bin."""
    if job.removed_at is None:
        return KEPT_DAYS
    left = job.removed_at + timedelta(days=KEPT_DAYS) - timezone.now()
    return max(left.days + 1, 0)


@transaction.atomic
def drop(job: Job) -> None:
    """Remove a ticket for good, and the pictures that nothing names any more."""
    pictures = [job.artwork, *job.sheets.all(), *_pocket_pictures(job)]
    sent = [
        proof_path(one.token, at)
        for one in job.approvals.all()
        for at in range(len(one.shown))
    ]
    Job.everything.get(pk=job.pk).delete()
    _drop_unnamed(pictures)
    for path in sent:
        path.unlink(missing_ok=True)


def empty_old() -> int:
    """Remove for good what lay in the bin for its time; return how many.

    What was burned stays: the log speaks of it.
    """
    before = timezone.now() - timedelta(days=KEPT_DAYS)
    old = Job.everything.filter(removed_at__lt=before, runs=None)
    count = 0
    for job in old:
        drop(job)
        count += 1
    return count


def _pocket_pictures(job: Job) -> list[Artwork]:
    """Return the pictures that a job's states name besides its own."""
    texts = [str(spec) for spec in job.revisions.values_list("spec", flat=True)]
    known = Artwork.objects.exclude(pk=job.artwork_id)
    return [one for one in known if any(one.sha256 in text for text in texts)]


def _drop_unnamed(pictures: Iterable[Artwork]) -> None:
    for one in set(pictures):
        if Job.everything.filter(artwork=one).exists() or _named(one.sha256):
            continue
        if Job.everything.filter(sheets=one).exists():
            continue
        one.delete()
        transaction.on_commit(lambda sha=one.sha256: _unlink(sha))  # type: ignore[misc]


def _named(sha256: str) -> bool:
    """Whether any state of any ticket names a picture."""
    return any(
        model.objects.filter(spec__icontains=sha256).exists() for model in (Revision, Take)
    )


def _unlink(sha256: str) -> None:
    artwork_path(sha256).unlink(missing_ok=True)
