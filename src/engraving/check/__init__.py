"""Rules that look at a computed job before the beam does."""

from engraving.check.artwork import kept_dots
from engraving.check.burning import even_dose
from engraving.check.findings import Facts, Finding, Fine, Fix, Severity
from engraving.check.gate import held_by
from engraving.check.outlines import RULES as OUTLINE_RULES
from engraving.check.rules import RULES, check_job
from engraving.check.size import MOST_STRETCHED, stretch

__all__ = [
    "MOST_STRETCHED",
    "OUTLINE_RULES",
    "RULES",
    "Facts",
    "Finding",
    "Fine",
    "Fix",
    "Severity",
    "check_job",
    "even_dose",
    "held_by",
    "kept_dots",
    "stretch",
]
