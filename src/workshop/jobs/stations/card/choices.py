"""Choices of a swatch card."""

from engraving.cards import KINDS


def card_choices() -> list[tuple[str, str]]:
    """Return every kind of swatch card."""
    return [(name, kind.label) for name, kind in KINDS.items()]


def card_kinds() -> list[tuple[str, str, str]]:
    """Return name, label and purpose of every kind of swatch card."""
    return [(name, kind.label, kind.finds) for name, kind in KINDS.items()]


def card_axes(name: str) -> tuple[str, str]:
    """Return what runs along a card's columns and rows."""
    return KINDS[name].columns, KINDS[name].rows
