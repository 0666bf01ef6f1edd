"""What the check says of a job, quickly or in full, and its fixes."""

import threading

from cachetools import LRUCache

from engraving.check import Facts, Finding, Fine, Fix, Severity, check_job
from engraving.jobspec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.pictures.intake import file_cell_mm
from workshop.jobs.revisions.writer import change, spec_of, updated
from workshop.jobs.ticket.shelf import shelf_of


def apply_fix(job: Job, rule: str) -> str:
    """Apply the fix a rule offers; return what it did, empty when it offers none."""
    spec = spec_of(job)
    quick, _ = check_job(quick_facts(job, spec))
    findings = quick if any(found.rule == rule for found in quick) else full_check(job)[0]
    fix = next((found.fix for found in findings if found.rule == rule), None)
    if not isinstance(fix, Fix):
        return ""
    change(job, updated(spec, fix.changes), fix.label)
    return fix.label


def quick_facts(job: Job, spec: JobSpec) -> Facts:
    """Return what is known of a job without computing anything."""
    art = job.artwork
    return Facts(
        spec,
        dotted=art.dotted,
        smeared=art.smeared,
        file_cell_mm=file_cell_mm(spec, job),
        shelf=shelf_of(job),
    )


def quick_findings(job: Job, spec: JobSpec) -> list[Finding]:
    """Return what can be found without making dots; of one state it is found once.

    A rack shows it of all its tickets, of which few were changed since.
    """
    facts = quick_facts(job, spec)
    rest = facts.shelf, facts.file_cell_mm, facts.dotted, facts.smeared
    key = job.state, repr(rest)
    with _finding:
        known = _found.get(key)
    if known is not None and known[0] == spec:
        return list(known[1])
    found = check_job(facts)[0]
    with _finding:
        _found[key] = spec, tuple(found)
    return found


_found: LRUCache[tuple[str, str], tuple[JobSpec, tuple[Finding, ...]]] = LRUCache(512)
_finding = threading.Lock()


def weights(findings: list[Finding]) -> tuple[int, int]:
    """Return how many of some findings are stops, and how many cautions."""
    found = [finding.severity for finding in findings]
    return found.count(Severity.STOP), found.count(Severity.CAUTION)


def first_fix(findings: list[Finding]) -> dict[str, str] | None:
    """Return the rule and label of the fix that answers the worst stop, if any."""
    for finding in findings:
        if finding.severity is Severity.STOP and finding.fix:
            return {"rule": finding.rule, "label": finding.fix.label}
    return None


def full_check(job: Job, spec: JobSpec | None = None) -> tuple[list[Finding], list[Fine]]:
    """Return findings, worst first, and what is fine.

    Parameters
    ----------
    job : Job
    spec : JobSpec, optional
        Its present state, where that is at hand.
    """
    return pipeline().check(spec or spec_of(job), shelf_of(job))
