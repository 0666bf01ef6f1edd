"""Choices of the artwork station."""

from engraving.artwork.mix import MIXES
from engraving.jobspec import ArtworkPart, MaskPart, TextLine
from engraving.lettering import FONTS
from workshop.jobs.models import Font
from workshop.shell.choices import Choices, labelled


def ground_choices() -> Choices:
    """Return what transparent parts may become."""
    return labelled(
        ArtworkPart,
        "ground",
        {
            "unburned": "leave unburned",
            "white": "white",
            "black": "black",
            "gray": "a gray",
        },
    )


def holds_choices() -> Choices:
    """Return what a picture may tell."""
    return labelled(ArtworkPart, "holds", {"tones": "Tones", "depth": "Depth"})


def mix_choices() -> Choices:
    """Return the named starting points of the gray mix."""
    return [(name, name.capitalize()) for name in MIXES]


def frame_choices() -> Choices:
    """Return the shapes of a frame."""
    return labelled(
        MaskPart,
        "frame",
        {
            "none": "None",
            "rectangle": "Rectangle",
            "rounded": "Rounded",
            "oval": "Oval",
            "circle": "Circle",
        },
    )


def look_choices() -> Choices:
    """Return how a drawn line may look."""
    return labelled(TextLine, "look", {"dark": "Dark", "light": "Light"})


def font_choices() -> Choices:
    """Return the shipped fonts, then the uploaded ones."""
    shipped = [(font.name, f"{font.label}, {font.kind}") for font in FONTS.values()]
    return shipped + [(font.sha256, font.name) for font in Font.objects.all()]
