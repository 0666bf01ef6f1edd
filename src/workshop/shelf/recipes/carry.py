"""Recipes begun from others: carried to another machine, or from the nearest."""

from engraving.jobspec import MachinePart, RecipePart, SubstratePart
from engraving.recipe import (
    Candidate,
    Carried,
    carry_over,
    starting_recipe,
)
from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shelf.recipes.changes import create_recipe, recipe_part


def carried(recipe: Recipe, target: Machine) -> Carried:
    """Return a recipe carried over to another machine, with its arithmetic."""
    machines = (MachinePart.model_validate(one.part) for one in (recipe.machine, target))
    return carry_over(recipe_part(recipe), *machines)


def keep_carried(recipe: Recipe, target: Machine) -> Recipe:
    """Put a recipe carried over on the shelf, labelled as a starting point."""
    found = carried(recipe, target)
    note = f"Carried over from {recipe.name} v{recipe.version} on {recipe.machine}"
    part = found.recipe.model_copy(update={"origin_note": note})
    name = f"{recipe.name}, to be tested"[:100]
    return create_recipe(target, recipe.substrate, name, part, "", note)


def start_recipe(
    substrate: Substrate, machine: Machine
) -> tuple[RecipePart, tuple[str, ...]] | None:
    """Return settings to begin with, and what they were taken from; None with no likes.

    The same substrate on another machine comes before all others.
    """
    others = Recipe.objects.with_all().exclude(substrate=substrate, machine=machine)
    same = others.filter(substrate=substrate, part__kind__in=["dots", "tone"])
    known = [
        Candidate(
            recipe_part(one),
            MachinePart.model_validate(one.machine.part),
            SubstratePart.model_validate(one.substrate.part),
            f"{one.name} on {one.machine}",
        )
        for one in (same or others)
        if one.part.get("kind") in ("dots", "tone") and one.part.get("power")
    ]
    found = starting_recipe(
        SubstratePart.model_validate(substrate.part),
        MachinePart.model_validate(machine.part),
        known,
    )
    if found is None:
        return None
    part, nearest = found
    labels = tuple(one.label for one in nearest)
    note = f"By dose from {'; '.join(labels)}"
    return part.model_copy(update={"origin": "start", "origin_note": note[:500]}), labels
