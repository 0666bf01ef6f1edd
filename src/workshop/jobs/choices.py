"""Choices the core offers, as forms need them; read-only."""

from dataclasses import dataclass

from engraving.dots import METHODS
from engraving.place import ANCHORS


@dataclass(frozen=True)
class MethodChoice:
    """A dot method as a form shows it."""

    name: str
    label: str
    family: str
    reason: str


def dot_methods() -> list[MethodChoice]:
    """Return every dot method in the registry's order."""
    return [MethodChoice(m.name, m.label, m.family, m.reason) for m in METHODS.values()]


def dot_method_choices() -> list[tuple[str, str]]:
    """Return (name, label) of every dot method."""
    return [(choice.name, choice.label) for choice in dot_methods()]


def anchor_choices() -> list[tuple[str, str]]:
    """Return (name, words) of the nine anchors, back row first."""
    return [(name, name.replace("-", ", ")) for name in ANCHORS]


def scan_choices() -> list[tuple[str, str]]:
    """Return the scan orders of error diffusion."""
    return [("serpentine", "Serpentine"), ("one-way", "One way")]
