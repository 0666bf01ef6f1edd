"""What a rule may report."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from engraving.jobspec import JobSpec
from engraving.motion import Estimate
from engraving.outline import FollowNotes
from engraving.place import Box


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
    """

    rule: str
    severity: Severity
    station: str
    sentence: str
    figure: str
    fix: Fix | None = None


@dataclass(frozen=True)
class Fine:
    """A rule that found nothing wrong, with the number it looked at."""

    rule: str
    label: str
    figure: str


@dataclass(frozen=True)
class Facts:
    """What is known of a job; None where the artwork was not at hand.

    Attributes
    ----------
    spec : JobSpec
        The job.
    burned_dots : int or None
        Dots that will be burned.
    dots : int or None
        Dots of the whole grid; of a swatch card those of its likeness.
    share : float or None
        Burned share of the grid, 0..1, a dot of half the power as a half.
    opaque : float or None
        Share of the picture that is not transparent, 0..1; None where none is.
    dotted, smeared : bool or None
        Whether the artwork is made of dots already, and whether lossy
        compression has blurred them.
    file_cell_mm : tuple of float or None
        Distance of the file's pixels along and across its rows at its own
        resolution, as the picture is turned; None where it has none.
    melting : float or None
        Share of the subject's edge that looks like its ground, 0..1.
    strokes : tuple of (str, float, float), or None
        Text, thinnest stroke and length in mm of each line of lettering.
    off_blank : float or None
        Share of the picture beyond the blank, 0..1.
    short_runs : int or None
        Runs of dots too short for the beam.
    spans : mapping or None
        Where on the bed the lines of each included outline lie, by its place in
        the list of operations; those without lines are missing. Of a fixture,
        those of the piece that is looked at.
    reaches : mapping or None
        The same of all pockets together.
    outlines : mapping or None
        What following each included outline met with, by the same place.
    bytes_s : float or None
        Bytes of G-code burned a second, where most are.
    timed : Estimate or None
        What the tool path takes, where the controller plans only so many moves together.
    """

    spec: JobSpec
    burned_dots: int | None = None
    dots: int | None = None
    share: float | None = None
    opaque: float | None = None
    dotted: bool | None = None
    smeared: bool | None = None
    file_cell_mm: tuple[float, float] | None = None
    melting: float | None = None
    strokes: tuple[tuple[str, float, float], ...] | None = None
    off_blank: float | None = None
    short_runs: int | None = None
    spans: Mapping[int, Box] | None = None
    reaches: Mapping[int, Box] | None = None
    outlines: Mapping[int, FollowNotes] | None = None
    bytes_s: float | None = None
    timed: Estimate | None = None


Result = Finding | Fine | None
Rule = Callable[[Facts], Result]

RULES: list[Rule] = []
"""Every rule, theme by theme."""
_OF_ROWS: set[Rule] = set()


def rule(*, of_rows: bool = False) -> Callable[[Rule], Rule]:
    """Register a rule.

    Parameters
    ----------
    of_rows : bool
        It speaks of the picture's rows only: of a picture that is not burned it
        says nothing.
    """

    def registered(one: Rule) -> Rule:
        RULES.append(one)
        if of_rows:
            _OF_ROWS.add(one)
        return one

    return registered


def rules_of(theme: str) -> list[Rule]:
    """Return the rules of a theme: those of its file."""
    return [one for one in RULES if one.__module__.endswith(f".{theme}")]


_WEIGHT = {severity: i for i, severity in enumerate(Severity)}


def check_job(facts: Facts) -> tuple[list[Finding], list[Fine]]:
    """Return findings, worst first, and what is fine."""
    asked = [one for one in RULES if facts.spec.raster or one not in _OF_ROWS]
    results = [one(facts) for one in asked]
    findings = [result for result in results if isinstance(result, Finding)]
    fine = [result for result in results if isinstance(result, Fine)]
    return sorted(findings, key=lambda found: _WEIGHT[found.severity]), fine
