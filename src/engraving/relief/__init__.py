"""Depth pictures to passes of a beam: how deep each dot goes, which pass fires where."""

from engraving.relief.curve import depths_mm
from engraving.relief.plan import Pass, Relief, passes_of, planned

__all__ = ["Pass", "Relief", "depths_mm", "passes_of", "planned"]
