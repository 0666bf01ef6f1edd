"""The gate: whether a job may leave for a machine. Everything that burns asks here."""

from collections.abc import Iterable

from engraving.check.findings import Finding, Severity


def held_by(findings: Iterable[Finding], *, signed: bool) -> str:
    """Return what holds a job back, as a sentence; empty where nothing does.

    Parameters
    ----------
    findings : iterable of Finding
        All that the full check found.
    signed : bool
        Whether somebody signed off the cautions of this very state.
    """
    found = list(findings)
    stops = [one for one in found if one.severity is Severity.STOP]
    if stops:
        return f"A stop holds this job: {stops[0].sentence}"
    cautions = sum(one.severity is Severity.CAUTION for one in found)
    if cautions and not signed:
        count = f"{cautions} caution{'s are' if cautions > 1 else ' is'}"
        return f"{count} not signed off; see the Check station."
    return ""
