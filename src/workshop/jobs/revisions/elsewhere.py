"""What was changed of a job on another page since a page was made."""

from engraving.jobspec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.revisions.differences import differing, said
from workshop.jobs.revisions.writer import spec_of

_MOST_NAMED = 4


def told(job: Job, shown: str) -> str:
    """Return what was changed since a page was made, and who did it, in words.

    Parameters
    ----------
    shown : str
        The state of the job that the page shows.

    Returns
    -------
    str
        Like ``width 80.00 mm, passes 2 (mk)``; empty where that state is not kept,
        or where the difference has no words.
    """
    base = job.revisions.filter(digest=shown).last()
    if base is None or job.head is None:
        return ""
    specs = [JobSpec.model_validate(base.spec), spec_of(job)]
    values = said(specs[1], differing(specs))
    more = [f"{len(values) - _MOST_NAMED} more"] if len(values) > _MOST_NAMED else []
    text = ", ".join(values[:_MOST_NAMED] + more)
    hands = job.revisions.filter(number__gt=base.number).exclude(author="")
    names = sorted(set(hands.values_list("author", flat=True)))
    return f"{text} ({', '.join(names)})" if text and names else text
