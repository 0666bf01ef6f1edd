"""The list of recipes."""

from typing import Any

from workshop.shelf.models import Recipe
from workshop.shelf.recipes.changes import recipe_part
from workshop.shelf.recipes.facts import recipe_dose


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
