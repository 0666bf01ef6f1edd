"""The one gate before a machine: burns and files for machines both ask here."""

from engraving.check import held_by
from workshop.jobs.models import Job
from workshop.jobs.ticket.findings import full_check
from workshop.jobs.ticket.signing import signed


def held(job: Job) -> str:
    """Return what keeps a job from a machine as it stands; empty where nothing does.

    Raises
    ------
    EngravingError
        When the job cannot be computed.
    """
    return held_by(full_check(job)[0], signed(job))


def signed_as_logged(job: Job) -> list[dict[str, str]]:
    """Return what a burn keeps of the cautions it is burned in spite of: those in force.

    Raises
    ------
    EngravingError
        As `held`.
    """
    given = signed(job)
    return [
        {"sentence": one.sentence, "figure": one.figure, "name": given[one.rests_on].name}
        for one in full_check(job)[0]
        if one.rests_on in given
    ]
