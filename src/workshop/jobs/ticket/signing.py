"""Cautions signed off, one by one, by name; void when what they rest on changes."""

from collections.abc import Iterable

from engraving.check import Finding, Severity
from workshop.jobs.models import Job, Signature

_LONGEST_NAME = 40


def sign_off(job: Job, name: str, findings: Iterable[Finding]) -> None:
    """Sign cautions as they are now; what is no caution is passed by."""
    for one in findings:
        if one.severity is not Severity.CAUTION:
            continue
        said = {
            "rests_on": one.rests_on,
            "sentence": one.sentence[:400],
            "figure": one.figure[:300],
            "name": name[:_LONGEST_NAME],
        }
        job.signatures.update_or_create(rule=one.rule, defaults=said)


def take_back(job: Job, rule: str) -> None:
    """Let a caution be unsigned again."""
    job.signatures.filter(rule=rule).delete()


def signed(job: Job) -> dict[str, Signature]:
    """Return a job's signatures by their grounds; those given for others are void."""
    return {one.rests_on: one for one in job.signatures.all()}


def void(job: Job, findings: Iterable[Finding]) -> dict[str, Signature]:
    """Return by rule the signatures that were given on other grounds than there are now."""
    now = {one.rule: one.rests_on for one in findings}
    return {
        one.rule: one
        for one in job.signatures.all()
        if one.rule in now and one.rests_on != now[one.rule]
    }


def last_name() -> str:
    """Return the name that was signed with last, in any ticket; empty before."""
    last = Signature.objects.first()
    return last.name if last else ""
