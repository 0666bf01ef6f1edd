"""Changing the tones of a picture that already lies on the burn grid."""

from engraving.tone.auto import AutoGround, AutoTone, auto_part, auto_tone, look_at
from engraving.tone.curve import before_curve, tone_table
from engraving.tone.histogram import (
    Histogram,
    code_counts,
    counts_through,
    histogram,
    summary,
)
from engraving.tone.stages import apply_tone, is_plain, levels_to_burn

__all__ = [
    "AutoGround",
    "AutoTone",
    "Histogram",
    "apply_tone",
    "auto_part",
    "auto_tone",
    "before_curve",
    "code_counts",
    "counts_through",
    "histogram",
    "is_plain",
    "levels_to_burn",
    "look_at",
    "summary",
    "tone_table",
]
