"""Choices of the outlines station."""

from engraving.jobspec import OperationPart
from workshop.shell.choices import Choices, labelled


def outline_kind_choices() -> Choices:
    """Return what may be done along an outline."""
    return [
        ("cut", "Cut"), ("score", "Scored"), ("hatch", "Hatched"),
        ("inside", "Carved inside"),
    ]  # fmt: skip


def adding_choices() -> list[tuple[str, str, str]]:
    """Return kind, shape and label of what can be added to the operations."""
    return [
        ("cut", "rectangle", "Cut"),
        ("score", "rectangle", "Score"),
        ("hatch", "traced", "Hatch"),
        ("score", "traced", "Trace"),
        ("inside", "lettering", "Carve letters"),
    ]


def outline_choices() -> Choices:
    """Return what an outline may go along."""
    return labelled(
        OperationPart,
        "shape",
        {
            "rectangle": "the picture's rectangle",
            "rounded": "the same, corners round",
            "blank": "the blank's edge",
            "picture": "what the mask keeps",
            "traced": "traced tones",
            "lettering": "the lettering",
            "drawn": "a drawing",
        },
    )
