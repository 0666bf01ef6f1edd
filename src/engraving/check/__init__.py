"""Rules that look at a computed job before the beam does."""

from engraving.check.artwork import kept_dots
from engraving.check.findings import Facts, Finding, Fine, Fix, Severity
from engraving.check.rules import RULES, check_job
from engraving.check.size import stretch

__all__ = [
    "RULES",
    "Facts",
    "Finding",
    "Fine",
    "Fix",
    "Severity",
    "check_job",
    "kept_dots",
    "stretch",
]
