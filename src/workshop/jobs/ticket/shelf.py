"""What stands on the shelf about a job, as the check rules need it."""

from engraving.check import RecipeKnown, Shelf
from engraving.jobspec import MachinePart
from workshop.jobs.models import Job
from workshop.shelf.machines.asked import unlike
from workshop.shelf.machines.timing import correction_of
from workshop.shelf.models import Recipe
from workshop.shelf.recipes.changes import recipe_part


def shelf_of(job: Job) -> Shelf:
    """Return what the shelf knows of a job's recipe, substrate and machine."""
    care = job.substrate.care if job.substrate else {}
    machine = job.machine
    return Shelf(
        recipe=recipe_known(job.recipe) if job.recipe else None,
        underlay=care.get("underlay", ""),
        coating=care.get("coating", ""),
        cleaning=care.get("cleaning", ""),
        unlike=unlike(MachinePart.model_validate(machine.part), machine.told)
        if machine and machine.told
        else (),
        correction=correction_of(machine),
    )


def recipe_known(recipe: Recipe) -> RecipeKnown:
    """Return what is known of a recipe by its settings and by what it rests on."""
    part = recipe_part(recipe)
    powers = [one.power for one in recipe.evidence.all()]
    tested = (
        bool(powers) or part.confidence != "untested" or part.origin in ("card", "burn")
    )
    tried = [part.power, part.lowest_power or part.power, *filter(None, powers)]
    return RecipeKnown(
        part.speed_mm_s,
        (min(tried), max(tried)),
        tested,
        part.lens,
        part.spot_mm,
        part.rated_power_w,
        part.coating,
        part.cleaning,
    )
