"""Choices of the place station."""

from engraving.jobspec import FixturePart, MountPart, PlacePart
from engraving.place import ANCHORS
from workshop.shell.choices import Choices, labelled


def zero_choices() -> Choices:
    """Return where a job's zero may be."""
    return labelled(
        PlacePart, "zero", {"bed": "The bed", "head": "The head", "point": "A point"}
    )


def mount_choices() -> Choices:
    """Return how a piece may be held."""
    return labelled(
        MountPart, "kind", {"flat": "Flat", "chuck": "Chuck", "rollers": "Rollers"}
    )


def top_choices() -> Choices:
    """Return to which side a turned piece's top may lie."""
    return labelled(MountPart, "top", {"left": "to the left", "right": "to the right"})


def rotary_choices() -> Choices:
    """Return how a rotary may be told to turn."""
    return labelled(
        MountPart, "output", {"scaled": "Y, scaled", "degrees": "A, in degrees"}
    )


def order_choices() -> Choices:
    """Return the orders in which pockets may be burned."""
    return labelled(
        FixturePart,
        "order",
        {
            "snake": "to and fro",
            "rows": "row by row",
            "columns": "by columns",
            "near": "the shortest way",
        },
    )


def pocket_picture_choices() -> Choices:
    """Return what may lie in a fixture's pockets."""
    return labelled(
        FixturePart,
        "picture",
        {"same": "The same", "own": "Each its own", "across": "One across all"},
    )


def gap_choices() -> Choices:
    """Return what becomes of a picture across the gaps between blanks."""
    return labelled(FixturePart, "gap", {"hidden": "stays hidden", "skipped": "is skipped"})


def anchor_choices() -> Choices:
    """Return (name, words) of the nine anchors, back row first."""
    return [(name, name.replace("-", ", ")) for name in ANCHORS]
