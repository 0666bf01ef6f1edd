"""Swatch cards: a grid of settings that is burned, looked at, and read."""

from engraving.cards.focus import FocusFound, focus_of
from engraving.cards.layout import (
    KINDS,
    Cell,
    KindOfCard,
    Layout,
    Letters,
    card_job,
    lay_out,
    starting_card,
)
from engraving.cards.lines import ToolFound, line_mm, tool_found
from engraving.cards.patches import (
    CardPatch,
    card_patches,
    fastest_mm_s,
    likeness,
    record_card,
    weakest_power,
)
from engraving.cards.photo import Flat, find_corners, flatten
from engraving.cards.reading import (
    Measured,
    Patch,
    best_cell,
    chosen_settings,
    ground_luminance,
    measure,
    row_shifts,
    tone_curve,
)
from engraving.cards.wells import WellsFound, wells_by_light, wells_found

__all__ = [
    "KINDS",
    "CardPatch",
    "Cell",
    "Flat",
    "FocusFound",
    "KindOfCard",
    "Layout",
    "Letters",
    "Measured",
    "Patch",
    "ToolFound",
    "WellsFound",
    "best_cell",
    "card_job",
    "card_patches",
    "chosen_settings",
    "fastest_mm_s",
    "find_corners",
    "flatten",
    "focus_of",
    "ground_luminance",
    "lay_out",
    "likeness",
    "line_mm",
    "measure",
    "record_card",
    "row_shifts",
    "starting_card",
    "tone_curve",
    "tool_found",
    "weakest_power",
    "wells_by_light",
    "wells_found",
]
