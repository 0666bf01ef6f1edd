"""Choices of the artwork station."""

from engraving.artwork.mix import MIXES
from engraving.lettering import FONTS
from workshop.jobs.models import Font


def ground_choices() -> list[tuple[str, str]]:
    """Return what transparent parts may become."""
    return [
        ("unburned", "leave unburned"),
        ("white", "white"),
        ("black", "black"),
        ("gray", "a gray"),
    ]


def mix_choices() -> list[tuple[str, str]]:
    """Return the named starting points of the gray mix."""
    return [(name, name.capitalize()) for name in MIXES]


def frame_choices() -> list[tuple[str, str]]:
    """Return the shapes of a frame."""
    names = ("none", "rectangle", "rounded", "oval", "circle")
    return [(name, name.capitalize()) for name in names]


def look_choices() -> list[tuple[str, str]]:
    """Return how a drawn line may look."""
    return [("dark", "Dark"), ("light", "Light")]


def font_choices() -> list[tuple[str, str]]:
    """Return the shipped fonts, then the uploaded ones."""
    shipped = [(font.name, f"{font.label}, {font.kind}") for font in FONTS.values()]
    return shipped + [(font.sha256, font.name) for font in Font.objects.all()]
