"""All that is on the shelf, for its pages."""

from typing import Any

from engraving.jobspec import BlankPart
from workshop.shelf.blanks.facts import drawn_blank, ground_of
from workshop.shelf.models import Blank, Machine, Recipe, Substrate
from workshop.shell.search import every_word

_MOST_FOUND = 4


def _carded(blank: Blank) -> dict[str, Any]:
    part = BlankPart.model_validate(blank.part)
    ground = ground_of(blank.substrate)
    if blank.colours:
        ground = blank.colours[0]["ground"]
    return {"blank": blank, "part": part, "drawn": drawn_blank(part, ground)}


def named(text: str) -> list[tuple[str, str, int]]:
    """Return what lies on the shelf and has every word of a text in its words.

    Returns
    -------
    list of tuple
        What it is called, the name of its page's address, and its key.
    """
    held = every_word(text, ("name", "note"))
    found: dict[str, Any] = {
        "machine": Machine.objects.filter(held),
        "substrate": Substrate.objects.filter(held),
        "blank": Blank.objects.filter(held),
        "recipe": Recipe.objects.found_by(text),
    }
    return [
        (f"{one.name}, {kind}", kind, one.pk)
        for kind, known in found.items()
        for one in known[:_MOST_FOUND]
    ]


def shelf() -> dict[str, Any]:
    """Return all that is on the shelf."""
    return {
        "machines": list(Machine.objects.with_use()),
        "substrates": list(Substrate.objects.with_use()),
        "blanks": [_carded(blank) for blank in Blank.objects.with_use()],
        "recipe_count": Recipe.objects.count(),
    }
