"""Rules that look at a computed job before the beam does.

A rule is a function of a job's facts to a finding, a fine, or nothing where it
cannot judge (the artwork is not at hand); it registers itself in the file of its
theme. Limits without a source are common practice.
"""

# ruff: isort: off
# Importing a theme registers its rules; the order is that of findings of equal weight.
from engraving.check import hazards as _hazards
from engraving.check import rotary as _rotary
from engraving.check import operations as _operations
from engraving.check import outlines as _outlines
from engraving.check import bed as _bed
from engraving.check import size as _size
from engraving.check import artwork as _artwork
from engraving.check import speed as _speed
from engraving.check import written as _written
from engraving.check import burning as _burning

# ruff: isort: on
from engraving.check.artwork import kept_dots
from engraving.check.burning import even_dose
from engraving.check.findings import (
    RULES,
    Facts,
    Finding,
    Fine,
    Fix,
    Severity,
    check_job,
    rules_of,
)
from engraving.check.gate import held_by
from engraving.check.size import MOST_STRETCHED, stretch

THEMES = (
    _hazards, _rotary, _operations, _outlines, _bed, _size, _artwork, _speed, _written,
    _burning,
)  # fmt: skip

__all__ = [
    "MOST_STRETCHED",
    "RULES",
    "THEMES",
    "Facts",
    "Finding",
    "Fine",
    "Fix",
    "Severity",
    "check_job",
    "even_dose",
    "held_by",
    "kept_dots",
    "rules_of",
    "stretch",
]
