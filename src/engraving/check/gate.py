"""The gate: whether a job may leave for a machine. Everything that burns asks here."""

from collections.abc import Container, Iterable

from engraving.check.findings import Finding, Severity


def held_by(findings: Iterable[Finding], signed: Container[str] = ()) -> str:
    """Return what holds a job back, as a sentence; empty where nothing does.

    Parameters
    ----------
    findings : iterable of Finding
        All that the full check found.
    signed : container of str
        Grounds of the cautions that somebody signed off: what `Finding.rests_on` was.
    """
    found = list(findings)
    if stop := stopped_by(found):
        return stop
    cautions = sum(
        one.severity is Severity.CAUTION and one.rests_on not in signed for one in found
    )
    if cautions:
        count = f"{cautions} caution{'s are' if cautions > 1 else ' is'}"
        return f"{count} not signed off; see the Check station."
    return ""


def stopped_by(findings: Iterable[Finding]) -> str:
    """Return what no signature helps against, as a sentence; empty where nothing is."""
    stop = next((one for one in findings if one.severity is Severity.STOP), None)
    return f"A stop holds this job: {stop.sentence}" if stop else ""
