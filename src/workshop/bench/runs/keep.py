"""Keep what a burn was made with as a recipe: "this worked"."""

from django.utils import timezone

from engraving.jobspec import JobSpec, RecipePart, TonePart
from engraving.recipe import recipe_of, unlike
from workshop.bench.models import Run
from workshop.bench.runs.start import CannotBurnError
from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shelf.recipes.changes import add_version, create_recipe, recipe_part
from workshop.shelf.recipes.evidence import note_evidence

_PROVEN = 4
"""Rated so many of five, a recipe counts as proven."""


def recipe_name(spec: JobSpec, number: int) -> str:
    """Return the name that a recipe of a job has, or would have."""
    return spec.burn.recipe or f"{spec.substrate.name}, job {number:04d}"


def keep_as_recipe(run: Run, name: str, rating: int, *, as_trimmed: bool = False) -> Recipe:
    """Put what a burn was made with on the shelf: "this worked".

    The recipe of that name, machine and substrate gets a new version; without
    one a recipe is made. The rating is kept with the burn too. ``as_trimmed`` takes
    speed and power as they were trimmed to while it burned.

    Raises
    ------
    CannotBurnError
        When its machine or substrate is not on the shelf any more.
    """
    spec = JobSpec.model_validate(run.spec)
    if as_trimmed and run.trimmed:
        burn = spec.burn.model_copy(update=run.trimmed)
        spec = spec.model_copy(update={"burn": burn})
    machine = Machine.objects.filter(name=spec.machine.name).first()
    substrate = Substrate.objects.filter(name=spec.substrate.name).first()
    if machine is None or substrate is None:
        raise CannotBurnError("Its machine or substrate is not on the shelf any more.")
    Run.objects.filter(pk=run.pk).update(rating=rating)
    note = f"Burn of job {run.job.number:04d}, {timezone.localtime(run.created):%Y-%m-%d}"
    confidence = "proven" if rating >= _PROVEN else "tried"
    tone = None if spec.tone == TonePart() else spec.tone.model_dump()
    part = recipe_of(
        spec,
        origin="burn",
        origin_note=note,
        rating=rating,
        confidence=confidence,
        tone=tone,
    )
    name = name or note
    known = Recipe.objects.filter(machine=machine, substrate=substrate, name=name).first()
    if known is None:
        known = create_recipe(machine, substrate, name, part, "", note)
    else:
        add_version(known, _with_newest_tones(part, spec, recipe_part(known)), note)
    _note(run, known, spec, rating)
    return known


def _with_newest_tones(part: RecipePart, spec: JobSpec, known: RecipePart) -> RecipePart:
    """Return what was burned, with the tones its recipe has learned since.

    Who rates a piece of last week does not mean to take back what its photo taught.
    """
    if unlike(spec, known):
        return part
    return part.model_copy(update={"patches": known.patches})


def piece_key(run: Run) -> str:
    """Return what a burn's piece is called among what recipes rest on."""
    return f"run {run.pk}"


def note_piece(run: Run) -> None:
    """Let the recipe that a burn was made by rest on it too."""
    spec, recipe = JobSpec.model_validate(run.spec), run.job.recipe
    if recipe is None or recipe.name != spec.burn.recipe or spec.card is not None:
        return
    _note(run, recipe, spec, run.rating, spec.burn.recipe_version)


def _note(run: Run, recipe: Recipe, spec: JobSpec, rating: int, version: int = 0) -> None:
    burned = run.trimmed or {}
    note_evidence(
        recipe,
        piece_key(run),
        kind="piece",
        said=f"{run.job.name}, job {run.job.number:04d}",
        power=burned.get("power", spec.burn.power),
        speed_mm_s=burned.get("speed_mm_s", spec.burn.speed_mm_s),
        rating=rating,
        version=version,
    )
