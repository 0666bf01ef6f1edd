"""Scratching with a point under a spring: lines by their density, dots by their rows."""

from engraving.scratching.dots import scratch_dots
from engraving.scratching.lines import scratch_lines

__all__ = ["scratch_dots", "scratch_lines"]
