"""Choices of a substrate."""

from engraving.jobspec import (
    SubstratePart,
)
from workshop.shell.choices import Choices, labelled


def texture_choices() -> Choices:
    """Return the surfaces a proof can draw."""
    return labelled(
        SubstratePart,
        "texture",
        {
            "none": "plain",
            "wood": "wood",
            "slate": "slate",
            "brushed": "brushed",
            "leather": "leather",
            "stone": "stone",
            "fibre": "fibre",
        },
    )


def side_choices() -> Choices:
    """Return from which side a piece is worked; it is looked at from its face."""
    return labelled(
        SubstratePart,
        "worked_from",
        {"front": "from the face", "back": "from behind (mirrored)"},
    )


def hazard_choices() -> Choices:
    """Return what may make a substrate dangerous."""
    return labelled(
        SubstratePart,
        "hazard",
        {
            "none": "none known",
            "chlorine": "chlorine: no beam",
            "old-mirror": "old mirror: mercury",
        },
    )


def polarity_choices() -> Choices:
    """Return what a beam may do to a substrate."""
    return labelled(
        SubstratePart, "polarity", {"darkens": "darkens it", "lightens": "lightens it"}
    )
