"""Choices of the blank station."""

from engraving.jobspec import SidePart, SizePart, SubstratePart
from workshop.shell.choices import Choices, labelled


def backing_choices() -> Choices:
    """Return what may lie behind clear material."""
    return labelled(
        SubstratePart,
        "backing",
        {
            "none": "Nothing in particular",
            "white": "White",
            "black": "Black",
            "mirror": "A mirror",
            "light": "Light",
        },
    )


def fit_choices() -> Choices:
    """Return how a picture's size may follow its blank."""
    return labelled(
        SizePart,
        "fit",
        {"inside": "Fit inside", "cover": "Cover", "stretch": "Stretch", "exact": "Exact"},
    )


def follow_choices() -> Choices:
    """Return whether something follows by itself."""
    return labelled(SidePart, "mirror", {"auto": "follows", "yes": "yes", "no": "no"})


def polarity_choices() -> Choices:
    """Return what the beam may be said to do."""
    return labelled(
        SidePart,
        "polarity",
        {
            "auto": "as the substrate has it",
            "darkens": "darkens it",
            "lightens": "lightens it",
        },
    )
