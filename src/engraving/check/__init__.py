"""Rules that look at a computed job before the beam does.

A rule is a function of a job's facts to a finding, a fine, or nothing where it
cannot judge (the artwork is not at hand); it registers itself in the file of its
theme. Limits without a source are common practice.
"""

# ruff: isort: off
# Importing a theme registers its rules; the order is that of findings of equal weight.
import engraving.check.hazards
import engraving.check.ways
import engraving.check.depth
import engraving.check.carving
import engraving.check.scratching
import engraving.check.rotary
import engraving.check.operations
import engraving.check.outlines
import engraving.check.bed
import engraving.check.size
import engraving.check.edges
import engraving.check.side
import engraving.check.units
import engraving.check.artwork
import engraving.check.tones
import engraving.check.speed
import engraving.check.written
import engraving.check.machine
import engraving.check.against_recipe
import engraving.check.material
import engraving.check.burning  # noqa: F401 (as all above)

# ruff: isort: on
from engraving.check.artwork import kept_dots
from engraving.check.burning import even_dose
from engraving.check.facts import Facts, RecipeKnown, ReliefKnown, Shelf
from engraving.check.findings import (
    RULES,
    Finding,
    Fine,
    Fix,
    Severity,
    check_job,
    rules_of,
)
from engraving.check.gate import held_by, stopped_by
from engraving.check.listed import listing
from engraving.check.size import MOST_STRETCHED, stretch

__all__ = [
    "MOST_STRETCHED",
    "RULES",
    "Facts",
    "Finding",
    "Fine",
    "Fix",
    "RecipeKnown",
    "ReliefKnown",
    "Severity",
    "Shelf",
    "check_job",
    "even_dose",
    "held_by",
    "kept_dots",
    "listing",
    "rules_of",
    "stopped_by",
    "stretch",
]
