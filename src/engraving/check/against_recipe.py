"""Rules that hold a job against its recipe: tried, on this machine, at this strength."""

from engraving.check.burning import NEAR_DOSE
from engraving.check.facts import Facts, RecipeKnown
from engraving.check.findings import Finding, Fine, Severity, rule
from engraving.recipe import exposure

_SPOT, _POWER, _TRIED = 0.1, 0.05, 0.02
"""A spot or a beam that differs by less burns alike (common practice, no source)."""


def _recipe(facts: Facts) -> RecipeKnown | None:
    if facts.shelf is None or facts.spec.card or not facts.spec.burn.recipe:
        return None
    return facts.shelf.recipe


@rule(of_rows=True, of="beam")
def recipe_was_tried(facts: Facts) -> Finding | Fine | None:
    """The recipe was burned at least once, as a card or on a piece."""
    recipe = _recipe(facts)
    if recipe is None:
        return None
    name = facts.spec.burn.recipe
    if recipe.tested:
        return Fine("recipe_was_tried", "Recipe tried", "yes")
    return Finding(
        "recipe_was_tried",
        Severity.CAUTION,
        "burn",
        "Nothing was burned by this recipe yet: try it on a card or an offcut first.",
        name,
    )


@rule(of_rows=True, of="beam")
def beam_is_the_recipes(facts: Facts) -> Finding | Fine | None:
    """Lens, spot and beam are those that the recipe was made with."""
    recipe, machine = _recipe(facts), facts.spec.machine
    if recipe is None or not recipe.spot_mm:
        return None
    changed = []
    if recipe.lens and machine.lens and recipe.lens != machine.lens:
        changed.append(f"lens {machine.lens}, was {recipe.lens}")
    if abs(machine.spot_mm / recipe.spot_mm - 1) > _SPOT:
        changed.append(f"spot {machine.spot_mm:.3f} mm, was {recipe.spot_mm:.3f} mm")
    watts, were = machine.rated_power_w, recipe.rated_power_w
    if were and abs(watts / were - 1) > _POWER:
        changed.append(f"{watts:g} W, were {were:g} W")
    if not changed:
        return Fine("beam_is_the_recipes", "Lens and beam", "unchanged")
    return Finding(
        "beam_is_the_recipes",
        Severity.CAUTION,
        "burn",
        "The machine is not as it was when the recipe was made, so tones and depth differ.",
        ", ".join(changed),
    )


@rule(of_rows=True, of="beam")
def power_was_tried(facts: Facts) -> Finding | Fine | None:
    """The power lies where the recipe was tried, though speed makes up for it.

    Where the dose differs too, that is told by its own rule.
    """
    recipe, spec = _recipe(facts), facts.spec
    if recipe is None or (spec.burn.recipe_dose and abs(exposure(spec) - 1) > NEAR_DOSE):
        return None
    weakest, strongest = recipe.powers
    power = spec.burn.power
    tried = f"{weakest:g} to {strongest:g} %" if weakest < strongest else f"{strongest:g} %"
    if weakest * (1 - _TRIED) <= power <= strongest * (1 + _TRIED):
        return Fine("power_was_tried", "Power tried", tried)
    return Finding(
        "power_was_tried",
        Severity.CAUTION,
        "burn",
        "The recipe was never tried at this power; many materials do not answer power as "
        "they answer speed.",
        f"{power:g} % set, tried at {tried}",
    )
