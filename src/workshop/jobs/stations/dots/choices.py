"""Choices of the dots station, from the registry of dot methods."""

from dataclasses import dataclass

from engraving.dots import FAMILIES, METHODS
from engraving.jobspec import DotsPart, ReproductionPart, values_of
from workshop.shell.choices import Choices, labelled


@dataclass(frozen=True)
class MethodChoice:
    """A dot method as a form shows it."""

    name: str
    label: str
    family: str
    reason: str
    settings: tuple[str, ...]


def dot_methods() -> list[MethodChoice]:
    """Return every dot method in the registry's order."""
    return [
        MethodChoice(m.name, m.label, m.family, m.reason, m.settings)
        for m in METHODS.values()
    ]


def family_choices() -> Choices:
    """Return (name, label) of the kinds of dot methods."""
    return list(FAMILIES.items())


def method_settings(name: str) -> tuple[str, ...]:
    """Return which values of the dots a method reads; none of an unknown one."""
    return METHODS[name].settings if name in METHODS else ()


def reproduction_choices() -> Choices:
    """Return how wanted tones may become shares of dots."""
    return labelled(
        ReproductionPart,
        "mode",
        {
            "plain": "As it is",
            "linear": "By light",
            "spot": "By spot",
            "measured": "Measured",
        },
    )


def run_choices() -> Choices:
    """Return what may become of runs too short for the beam."""
    return labelled(
        DotsPart, "runs", {"keep": "Keep", "lengthen": "Lengthen", "drop": "Drop"}
    )


def dot_method_choices() -> Choices:
    """Return (name, label) of every dot method."""
    return [(choice.name, choice.label) for choice in dot_methods()]


def scan_choices() -> Choices:
    """Return the scan orders of error diffusion."""
    return labelled(DotsPart, "scan", {"serpentine": "Serpentine", "one-way": "One way"})


def matrix_choices() -> Choices:
    """Return how many dots a threshold matrix may be wide and high."""
    return [(str(n), f"{n} × {n}") for n in values_of(DotsPart, "matrix")]
