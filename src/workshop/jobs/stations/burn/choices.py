"""Choices of the burn station."""

from engraving.jobspec import BurnPart
from workshop.shell.choices import Choices, labelled


def row_choices() -> Choices:
    """Return the axes along which rows may run."""
    return labelled(BurnPart, "rows", {"x": "Along X", "y": "Along Y"})
