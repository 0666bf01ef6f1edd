"""Choices of the shelf's forms; read-only."""

from engraving.dots import METHODS
from engraving.jobspec import machine

MOST_LENSES, MOST_SHIFTS = machine.MOST_LENSES, machine.MOST_SHIFTS
"""How many rows the machine's form has."""


def beam_choices() -> list[tuple[str, str]]:
    """Return what a machine may mark with."""
    return [
        ("co2", "A CO₂ tube"),
        ("diode", "A diode"),
        ("fibre", "A fibre beam"),
        ("other", "Another beam"),
        ("drag", "A drag point"),
        ("vtool", "A V-tool in a spindle"),
    ]


def origin_choices() -> list[tuple[str, str]]:
    """Return the corners a machine's zero may lie in."""
    names = ("front-left", "front-right", "back-left", "back-right")
    return [(name, name.replace("-", " ")) for name in names]


def x_choices() -> list[tuple[str, str]]:
    """Return which way X may grow."""
    return [("auto", "away from zero"), ("right", "to the right"), ("left", "to the left")]


def y_choices() -> list[tuple[str, str]]:
    """Return which way Y may grow."""
    return [("auto", "away from zero"), ("back", "to the back"), ("front", "to the front")]


def known_choices() -> list[tuple[str, str]]:
    """Return where a lens's spot may come from."""
    return [("said", "typed in"), ("computed", "computed"), ("measured", "measured")]


def texture_choices() -> list[tuple[str, str]]:
    """Return the surfaces a proof can draw."""
    names = ("none", "wood", "slate", "brushed", "leather", "stone", "fibre")
    return [(name, "plain" if name == "none" else name) for name in names]


def side_choices() -> list[tuple[str, str]]:
    """Return from which side a piece is worked; it is looked at from its face."""
    return [("front", "from the face"), ("back", "from behind (mirrored)")]


def hazard_choices() -> list[tuple[str, str]]:
    """Return what may make a substrate dangerous."""
    return [
        ("none", "none known"),
        ("chlorine", "chlorine: no beam"),
        ("old-mirror", "old mirror: mercury"),
    ]


def operation_choices() -> list[tuple[str, str]]:
    """Return the kinds of operation a recipe may be for."""
    return [
        ("dots", "Raster dots"),
        ("tone", "Continuous tone"),
        ("hatch", "Hatch"),
        ("score", "Score"),
        ("cut", "Cut"),
    ]


def any_operation_choices() -> list[tuple[str, str]]:
    """Return the kinds of operation, and all of them."""
    return [("", "Every operation"), *operation_choices()]


def method_choices() -> list[tuple[str, str]]:
    """Return every dot method."""
    return [(method.name, method.label) for method in METHODS.values()]


def confidence_choices() -> list[tuple[str, str]]:
    """Return how far a recipe may be trusted."""
    return [("untested", "untested"), ("tried", "tried"), ("proven", "proven")]


def rating_choices() -> list[tuple[int, str]]:
    """Return how a burn may be rated."""
    return [(0, "not rated"), *((n, f"{n} of 5") for n in range(1, 6))]
