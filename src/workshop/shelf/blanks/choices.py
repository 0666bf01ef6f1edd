"""Choices of a blank."""

from engraving.jobspec import (
    Area,
    BlankPart,
)
from workshop.shell.choices import Choices, labelled


def area_choices() -> Choices:
    """Return the shapes of an engravable area."""
    return labelled(Area, "shape", {"rectangle": "Rectangle", "oval": "Oval"})


def shape_choices() -> Choices:
    """Return the shapes of blanks."""
    return labelled(
        BlankPart,
        "shape",
        {
            "rectangle": "Rectangle",
            "rounded": "Rounded rectangle",
            "disc": "Disc",
            "oval": "Oval",
            "ring": "Ring band",
            "wall": "Cylinder wall",
            "taper": "Tapered wall",
            "outline": "Free outline",
        },
    )
