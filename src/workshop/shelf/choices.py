"""Choices of the shelf's forms; read-only."""

from engraving.dots import METHODS
from engraving.jobspec import (
    Area,
    BlankPart,
    LensPart,
    MachinePart,
    RecipePart,
    SubstratePart,
    machine,
)
from workshop.shell.choices import Choices, labelled

MOST_LENSES, MOST_SHIFTS = machine.MOST_LENSES, machine.MOST_SHIFTS
"""How many rows the machine's form has."""


def beam_choices() -> Choices:
    """Return what a machine may mark with."""
    return labelled(
        MachinePart,
        "kind",
        {
            "co2": "A CO₂ tube",
            "diode": "A diode",
            "fibre": "A fibre beam",
            "other": "Another beam",
            "drag": "A drag point",
            "vtool": "A V-tool in a spindle",
        },
    )


def origin_choices() -> Choices:
    """Return the corners a machine's zero may lie in."""
    return labelled(MachinePart, "origin")


def x_choices() -> Choices:
    """Return which way X may grow."""
    return labelled(
        MachinePart,
        "x_runs",
        {"auto": "away from zero", "right": "to the right", "left": "to the left"},
    )


def y_choices() -> Choices:
    """Return which way Y may grow."""
    return labelled(
        MachinePart,
        "y_runs",
        {"auto": "away from zero", "back": "to the back", "front": "to the front"},
    )


def known_choices() -> Choices:
    """Return where a lens's spot may come from."""
    return labelled(
        LensPart,
        "known",
        {"said": "typed in", "computed": "computed", "measured": "measured"},
    )


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


def beam_word_choices() -> Choices:
    """Return the words (RS-274) that may switch a beam on."""
    return labelled(MachinePart, "beam")


def line_end_choices() -> Choices:
    """Return how the lines of a program may end."""
    return labelled(MachinePart, "line_end", {"lf": "LF", "crlf": "CR LF"})


def polarity_choices() -> Choices:
    """Return what a beam may do to a substrate."""
    return labelled(
        SubstratePart, "polarity", {"darkens": "darkens it", "lightens": "lightens it"}
    )


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
