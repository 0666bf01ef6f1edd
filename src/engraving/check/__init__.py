"""Rules that look at a computed job before the beam does."""

from engraving.check.findings import Facts, Finding, Fine, Fix, Severity
from engraving.check.rules import RULES, check_job

__all__ = ["RULES", "Facts", "Finding", "Fine", "Fix", "Severity", "check_job"]
