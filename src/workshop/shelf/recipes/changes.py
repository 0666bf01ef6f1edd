"""Recipes on the shelf: kept in versions, carried over, started from others."""

from collections.abc import Mapping
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from engraving.errors import InputError
from engraving.jobspec import MachinePart, RecipePart, sentence
from workshop.shelf.models import Machine, Recipe, RecipeVersion, Substrate

_NOT_TYPED = (
    "tone", "tool", "patches", "origin", "origin_note", "spot_mm", "rated_power_w",
)  # fmt: skip
BEAM = {"spot_mm", "rated_power_w"}
"""What is noted by itself: the beam that the settings are made with."""
FIELDS = tuple(name for name in RecipePart.model_fields if name not in _NOT_TYPED)
"""What a recipe's form shows of its settings."""


def recipe_part(recipe: Recipe) -> RecipePart:
    """Return a recipe's settings."""
    return RecipePart.model_validate(recipe.part)


def checked_part(values: Mapping[str, Any]) -> RecipePart:
    """Return settings that were checked.

    Raises
    ------
    InputError
        When they make no recipe; ``field`` names the value at fault.
    """
    try:
        return RecipePart.model_validate(dict(values))
    except ValidationError as error:
        where = error.errors()[0]["loc"]
        raise InputError(sentence(error), field=str(where[0]) if where else "") from None


def put_recipe(machine: Machine, substrate: Substrate, name: str, **values: Any) -> Recipe:
    """Put a recipe on the shelf, or a new version of the one of that name."""
    recipe = Recipe.objects.filter(machine=machine, substrate=substrate, name=name).first()
    note = values.pop("note", "")
    part = checked_part(values)
    if recipe:
        add_version(recipe, part, "")
        return recipe
    return create_recipe(machine, substrate, name, part, note)


@transaction.atomic
def create_recipe(
    machine: Machine,
    substrate: Substrate,
    name: str,
    part: RecipePart,
    note: str = "",
    why: str = "",
) -> Recipe:
    """Put a new recipe on the shelf."""
    part = part if part.spot_mm else _made_with(part, machine)
    data = part.model_dump(mode="json")
    recipe = Recipe.objects.create(
        name=name[:100], machine=machine, substrate=substrate, part=data, note=note
    )
    RecipeVersion.objects.create(recipe=recipe, number=1, part=data, why=why[:300])
    return recipe


@transaction.atomic
def add_version(recipe: Recipe, part: RecipePart, why: str) -> bool:
    """Keep new settings of a recipe as its next version; False where nothing changed."""
    if part.model_dump(exclude=BEAM) == recipe_part(recipe).model_dump(exclude=BEAM):
        return False
    data = _made_with(part, recipe.machine).model_dump(mode="json")
    recipe.version += 1
    recipe.part = data
    recipe.save()
    RecipeVersion.objects.create(
        recipe=recipe, number=recipe.version, part=data, why=why[:300]
    )
    return True


def _made_with(part: RecipePart, machine: Machine) -> RecipePart:
    """Note the beam that a recipe's settings are made with: that of today."""
    beam = MachinePart.model_validate(machine.part)
    spots = {lens.name: lens.spot_mm for lens in beam.lenses}
    spot = spots.get(part.lens, beam.spot_mm)
    made = {"spot_mm": spot, "rated_power_w": beam.rated_power_w}
    return part.model_copy(update=made)


def recipe_values(recipe: Recipe | None, start: RecipePart | None = None) -> dict[str, Any]:
    """Return the values of a recipe's form."""
    part = recipe_part(recipe) if recipe else start or RecipePart()
    return {
        **{name: getattr(part, name) for name in FIELDS},
        "name": recipe.name if recipe else "",
        "machine": recipe.machine_id if recipe else None,
        "substrate": recipe.substrate_id if recipe else None,
        "note": recipe.note if recipe else "",
        "why": "",
    }


def save_recipe(data: Mapping[str, Any], recipe: Recipe | None = None) -> Recipe:
    """Put a new recipe on the shelf, or a new version of one.

    Raises
    ------
    InputError
        When it makes no recipe; ``field`` names the value at fault.
    """
    before = recipe.part if recipe else {"origin": "hand"}
    values = {name: data[name] for name in FIELDS if data.get(name) is not None}
    part = checked_part({**before, **values})
    _hold_lens(part, data["machine"])
    if recipe is None:
        return create_recipe(
            data["machine"], data["substrate"], data["name"], part, data.get("note", ""),
            data.get("why") or "Typed in",
        )  # fmt: skip
    recipe.name, recipe.note = data["name"], data.get("note", "")
    recipe.machine, recipe.substrate = data["machine"], data["substrate"]
    recipe.save()
    add_version(recipe, part, data.get("why") or "Changed by hand")
    return recipe


def _hold_lens(part: RecipePart, machine: Machine) -> None:
    """Refuse a lens that the machine lacks."""
    known = [lens["name"] for lens in machine.part.get("lenses", [])]
    if part.lens and part.lens not in known:
        has = f"it has {', '.join(known)}" if known else "it has none of a name"
        raise InputError(f"{machine} has no such lens; {has}.", field="lens")


def back_to(recipe: Recipe, number: int) -> bool:
    """Make an old version's settings the newest; False where there is no such version."""
    old = recipe.versions.filter(number=number).first()
    if old is None:
        return False
    add_version(recipe, RecipePart.model_validate(old.part), f"Back to version {number}")
    return True


def remove_recipe(recipe: Recipe) -> None:
    """Take a recipe off the shelf; jobs keep what they used."""
    recipe.delete()


def toggle_favourite(recipe: Recipe) -> None:
    """Make a recipe a favourite, or one no longer."""
    Recipe.objects.filter(pk=recipe.pk).update(favourite=not recipe.favourite)
