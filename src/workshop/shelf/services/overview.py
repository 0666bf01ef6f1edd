"""All that is on the shelf, for its pages."""

from typing import Any

from engraving.jobspec import BlankPart
from workshop.shelf.models import Blank, Machine, Recipe, Substrate
from workshop.shelf.services.blanks import drawn_blank, ground_of
from workshop.shelf.services.recipes import recipe_dose, recipe_part


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


def recipe_rows(filters: dict[str, Any]) -> list[dict[str, Any]]:
    """Return recipes as a list shows them, favourites first.

    Parameters
    ----------
    filters : dict
        ``find`` (words), ``machine``, ``substrate``, ``kind``, ``favourites``;
        what is empty does not narrow.
    """
    recipes = Recipe.objects.with_all().found_by(filters.get("find") or "")
    for name in ("machine", "substrate"):
        if filters.get(name):
            recipes = recipes.filter(**{name: filters[name]})
    if filters.get("kind"):
        recipes = recipes.filter(part__kind=filters["kind"])
    if filters.get("favourites"):
        recipes = recipes.filter(favourite=True)
    return [
        {"recipe": one, "part": recipe_part(one), "dose": recipe_dose(one)}
        for one in recipes.order_by("-favourite", "substrate__name", "name")
    ]
