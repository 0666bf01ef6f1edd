"""Choices of a machine."""

from engraving.jobspec import (
    LensPart,
    MachinePart,
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


def beam_word_choices() -> Choices:
    """Return the words (RS-274) that may switch a beam on."""
    return labelled(MachinePart, "beam")


def line_end_choices() -> Choices:
    """Return how the lines of a program may end."""
    return labelled(MachinePart, "line_end", {"lf": "LF", "crlf": "CR LF"})
