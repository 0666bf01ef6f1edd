"""What a finished piece teaches: its photo laid over its proof, tone by tone.

::

    Expected ── frame ── reference ─┐
                                    ├─ find (content, outline, four points) ─ fine
    photo ──────────────────────────┘                                          │
         seen = photo squared, over the light that falls on the bare blank ────┤
         compared with what was expected ─ Reading ─ several ─ Amendment ──────┘
"""

from engraving.pieces.amend import KNOTS, STEP, Amendment, Learned, amended
from engraving.pieces.expected import Expected, expected_of
from engraving.pieces.find import Points
from engraving.pieces.reading import Reading, read_piece
from engraving.pieces.tones import Tone

__all__ = [
    "KNOTS",
    "STEP",
    "Amendment",
    "Expected",
    "Learned",
    "Points",
    "Reading",
    "Tone",
    "amended",
    "expected_of",
    "read_piece",
]
