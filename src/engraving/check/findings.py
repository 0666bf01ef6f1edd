"""What a rule may report."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

from engraving.check.facts import Facts
from engraving.check.watched import reading, rests_on, watched
from engraving.jobspec import JobSpec


class Severity(StrEnum):
    """How much a finding weighs, worst first."""

    STOP = "stop"
    CAUTION = "caution"
    NOTE = "note"


@dataclass(frozen=True)
class Fix:
    """A change that answers a finding.

    Attributes
    ----------
    label : str
        What the button says: what it will do.
    changes : dict
        New values by part, such as ``{"burn": {"speed_mm_s": 500.0}}``.
    """

    label: str
    changes: dict[str, Any]


@dataclass(frozen=True)
class Finding:
    """Something the operator should know before the beam starts.

    Attributes
    ----------
    rule : str
        Name of the rule.
    severity : Severity
        A stop holds the job; a caution can be signed off; a note informs.
    station : str
        The station where it is put right.
    sentence : str
        What is wrong, and why it matters.
    figure : str
        The number that shows it.
    fix : Fix, optional
        One change that answers it.
    rests_on : str
        What tells it from the same finding on other grounds; see `check.watched`.
    """

    rule: str
    severity: Severity
    station: str
    sentence: str
    figure: str
    fix: Fix | None = None
    rests_on: str = ""


@dataclass(frozen=True)
class Fine:
    """A rule that found nothing wrong, with the number it looked at."""

    rule: str
    label: str
    figure: str


Result = Finding | Fine | None
Rule = Callable[[Facts], Result]

RULES: list[Rule] = []
"""Every rule, theme by theme."""
_OF_ROWS: set[Rule] = set()
_OF: dict[Rule, str] = {}


def rule(*, of_rows: bool = False, of: str = "") -> Callable[[Rule], Rule]:
    """Register a rule.

    Parameters
    ----------
    of_rows : bool
        It speaks of the picture's rows only: of a picture that is not burned it
        says nothing.
    of : {"", "beam", "tones", "dots"}
        It speaks of beams only, of tones (so of no relief), or of a beam's dots.
    """

    def registered(one: Rule) -> Rule:
        RULES.append(one)
        if of_rows:
            _OF_ROWS.add(one)
        if of:
            _OF[one] = of
        return one

    return registered


def of_rows(one: Rule) -> bool:
    """Whether a rule speaks of the picture's rows only."""
    return one in _OF_ROWS


def rules_of(theme: str) -> list[Rule]:
    """Return the rules of a theme: those of its file."""
    return [one for one in RULES if one.__module__.endswith(f".{theme}")]


_WEIGHT = {severity: i for i, severity in enumerate(Severity)}


def check_job(facts: Facts) -> tuple[list[Finding], list[Fine]]:
    """Return findings, worst first, and what is fine."""
    asked = [one for one in RULES if facts.spec.raster or one not in _OF_ROWS]
    asked = [one for one in asked if _speaks_of(one, facts.spec)]
    seen = watched(facts)
    results = [_asked(one, facts, seen) for one in asked]
    findings = [result for result in results if isinstance(result, Finding)]
    fine = [result for result in results if isinstance(result, Fine)]
    return sorted(findings, key=lambda found: _WEIGHT[found.severity]), fine


def _speaks_of(one: Rule, spec: JobSpec) -> bool:
    """Whether a rule has to do with how a job is marked."""
    of = _OF.get(one, "")
    way = "dots" if spec.card is not None else spec.marking.way
    if of == "beam":
        return not spec.machine.touches
    if of == "tones":
        return way != "relief"
    return of != "dots" or (way == "dots" and not spec.machine.touches)


def _asked(one: Rule, facts: Facts, seen: Facts) -> Result:
    with reading() as read:
        result = one(seen)
    if not isinstance(result, Finding):
        return result
    said = result.rule, result.severity.value, result.sentence, result.figure
    return replace(result, rests_on=rests_on(facts, read, *said))
