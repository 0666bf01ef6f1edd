"""Changing the tones of a picture that already lies on the burn grid."""

from engraving.tone.curve import tone_table
from engraving.tone.histogram import Histogram, histogram
from engraving.tone.stages import apply_tone, is_plain, levels_to_burn

__all__ = [
    "Histogram",
    "apply_tone",
    "histogram",
    "is_plain",
    "levels_to_burn",
    "tone_table",
]
