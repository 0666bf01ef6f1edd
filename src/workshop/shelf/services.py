"""Verbs of the shelf."""

from typing import Any

from engraving.recipe import areal_dose_j_mm2, watts
from engraving.spec import BlankPart, MachinePart, SubstratePart
from workshop.shelf.models import Blank, Machine, Recipe, Substrate


def put_machine(name: str, note: str = "", link: str = "", **values: Any) -> Machine:
    """Put a machine on the shelf, or change the one of that name."""
    part = MachinePart(name=name, **values).model_dump(mode="json")
    machine, _ = Machine.objects.update_or_create(
        name=name, defaults={"part": part, "note": note, "link": link}
    )
    return machine


def put_substrate(name: str, note: str = "", **values: Any) -> Substrate:
    """Put a substrate on the shelf, or change the one of that name."""
    part = SubstratePart(name=name, **values).model_dump(mode="json")
    substrate, _ = Substrate.objects.update_or_create(
        name=name, defaults={"part": part, "note": note}
    )
    return substrate


def put_blank(
    name: str, substrate: Substrate | None, note: str = "", **values: Any
) -> Blank:
    """Put a blank on the shelf, or change the one of that name."""
    part = BlankPart(name=name, **values).model_dump(mode="json")
    blank, _ = Blank.objects.update_or_create(
        name=name, defaults={"part": part, "note": note, "substrate": substrate}
    )
    return blank


def put_recipe(machine: Machine, substrate: Substrate, name: str, **values: Any) -> Recipe:
    """Put a recipe on the shelf, or change the one of that name."""
    recipe, _ = Recipe.objects.update_or_create(
        name=name, machine=machine, substrate=substrate, defaults=values
    )
    return recipe


def recipe_dose(recipe: Recipe) -> float:
    """Return a recipe's dose in J/mm²."""
    rated = MachinePart.model_validate(recipe.machine.part).rated_power_w
    return areal_dose_j_mm2(
        watts(recipe.power, rated), recipe.speed_mm_s, recipe.pitch_mm, recipe.passes
    )


def shelf() -> dict[str, Any]:
    """Return all that is on the shelf, for reading."""
    recipes = list(Recipe.objects.select_related("machine", "substrate"))
    return {
        "machines": list(Machine.objects.all()),
        "substrates": list(Substrate.objects.all()),
        "blanks": list(Blank.objects.select_related("substrate")),
        "recipes": [(recipe, recipe_dose(recipe)) for recipe in recipes],
    }
