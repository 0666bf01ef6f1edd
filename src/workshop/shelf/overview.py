"""All that is on the shelf, for its pages."""

from typing import Any

from engraving.jobspec import BlankPart
from workshop.shelf.blanks.facts import drawn_blank, ground_of
from workshop.shelf.models import Blank, Machine, Recipe, Substrate


def _carded(blank: Blank) -> dict[str, Any]:
    part = BlankPart.model_validate(blank.part)
    ground = ground_of(blank.substrate)
    if blank.colours:
        ground = blank.colours[0]["ground"]
    return {"blank": blank, "part": part, "drawn": drawn_blank(part, ground)}


def shelf() -> dict[str, Any]:
    """Return all that is on the shelf."""
    return {
        "machines": list(Machine.objects.with_use()),
        "substrates": list(Substrate.objects.with_use()),
        "blanks": [_carded(blank) for blank in Blank.objects.with_use()],
        "recipe_count": Recipe.objects.count(),
    }
