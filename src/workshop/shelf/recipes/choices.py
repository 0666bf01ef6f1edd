"""Choices of a recipe."""

from engraving.dots import METHODS
from engraving.jobspec import (
    RecipePart,
)
from workshop.shell.choices import Choices, labelled


def operation_choices() -> Choices:
    """Return the kinds of operation a recipe may be for."""
    return labelled(
        RecipePart,
        "kind",
        {
            "dots": "Raster dots",
            "tone": "Continuous tone",
            "hatch": "Hatch",
            "score": "Score",
            "cut": "Cut",
        },
    )


def any_operation_choices() -> Choices:
    """Return the kinds of operation, and all of them."""
    return [("", "Every operation"), *operation_choices()]


def method_choices() -> Choices:
    """Return every dot method."""
    return [(method.name, method.label) for method in METHODS.values()]


def confidence_choices() -> Choices:
    """Return how far a recipe may be trusted."""
    return labelled(RecipePart, "confidence")


def rating_choices() -> Choices:
    """Return how a burn may be rated."""
    return [(0, "not rated"), *((n, f"{n} of 5") for n in range(1, 6))]
