"""A job takes what the shelf holds: a recipe's settings, a substrate's side."""

from typing import Any

from engraving.jobspec import (
    BURN_SETTINGS,
    JobSpec,
    RecipePart,
    SidePart,
    SizePart,
    SubstratePart,
)
from engraving.place import burned_box, centred, engravable_box, mounted
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import spec_of, updated
from workshop.shelf.models import Recipe
from workshop.shelf.recipes.changes import recipe_part
from workshop.shelf.recipes.facts import recipe_dose


def side_of(spec: JobSpec, substrate: SubstratePart) -> SidePart:
    """Return the side a substrate is worked from; what was overruled was of another."""
    plate = spec.side.printing_plate
    return SidePart(seen_from=substrate.worked_from, printing_plate=plate)


def fitted_to_blank(spec: JobSpec) -> JobSpec:
    """Make the picture as large as the blank allows, in the middle of the bed."""
    x, y, wide, high = engravable_box(spec.blank)
    width = min(wide, high * spec.artwork.ratio)
    size = SizePart(
        width_mm=width,
        height_mm=width / spec.artwork.ratio,
        pitch_mm=spec.size.pitch_mm,
        fit="inside",
        offset_x_mm=x,
        offset_y_mm=y,
    )
    return centre_on_bed(spec.model_copy(update={"size": size}))


def centre_on_bed(spec: JobSpec) -> JobSpec:
    """Return the job with its piece, or all its pieces, in the middle of the bed."""
    x, y = centred(spec.size, spec.machine)
    if spec.mount.rotary:
        x = (spec.machine.bed_width_mm - mounted(spec).size.width_mm) / 2
        y = 0.0
    elif spec.fixture is not None:
        box = burned_box(spec)
        x = spec.place.x_mm + (spec.machine.bed_width_mm - box.left - box.right) / 2
        y = spec.place.y_mm + (spec.machine.bed_height_mm - box.front - box.back) / 2
    place = spec.place.model_copy(update={"x_mm": x, "y_mm": y})
    return spec.model_copy(update={"place": place})


def last_rotary(job: Job) -> dict[str, Any] | None:
    """Return the rotary mount as it stood last on a job's machine, made for no picture."""
    if job.machine_id is None:
        return None
    others = Job.objects.filter(machine_id=job.machine_id).exclude(pk=job.pk)
    for other in others.select_related("head").order_by("-number")[:50]:
        mount = spec_of(other).mount
        if mount.rotary:
            return mount.model_dump() | {"wrap": False, "overlap_mm": 0.0}
    return None


def with_recipe(spec: JobSpec, recipe: Recipe) -> JobSpec:
    """Return the job as a recipe burns, version and all, with its tone preset if any."""
    part = recipe_part(recipe)
    machine = spec.machine
    if part.lens:
        machine = updated(spec, {"machine": {"lens": part.lens}}).machine
    burn = {name: getattr(part, name) for name in BURN_SETTINGS}
    changes: dict[str, dict[str, Any]] = {
        "machine": machine.model_dump(mode="json"),
        "burn": {
            **burn,
            "recipe": recipe.name,
            "begun_with": "",
            "recipe_version": recipe.version,
            "recipe_dose": recipe_dose(recipe),
            "rows": part.rows,
        },
    }
    if not spec.keeps_dots:
        # Dots that are kept lie as far apart as they do.
        changes["size"] = {"pitch_mm": part.pitch_mm, "dot_pitch_mm": None}
        changes["dots"] = {"method": part.method}
        if part.kind == "tone":
            floor = 100 * part.lowest_power / part.power if part.power else 0.0
            changes["dots"] = {
                "method": "power",
                "floor": round(floor, 2),
                "ceiling": 100.0,
            }
    if part.patches:
        changes["reproduction"] = {"mode": "measured", "patches": part.patches}
    elif spec.reproduction.mode == "measured":
        changes["reproduction"] = {"mode": "spot", "patches": ()}
    if part.per_pass_mm:
        relief = spec.marking.relief.model_copy(update={"per_pass_mm": part.per_pass_mm})
        changes.setdefault("marking", {})["relief"] = relief.model_dump(mode="json")
    if part.tool is not None:
        carving = spec.marking.carving.model_copy(update={"tool": part.tool})
        changes.setdefault("marking", {})["carving"] = carving.model_dump(mode="json")
    if part.tone is not None:
        changes["tone"] = part.tone.model_dump(mode="json")
    return updated(spec, changes)


def without_recipe(spec: JobSpec) -> JobSpec:
    """Return the job with its settings as they are, and nothing that vouches for them."""
    none = {"recipe": "", "recipe_version": 0, "recipe_dose": 0, "begun_with": ""}
    changes: dict[str, dict[str, Any]] = {"burn": none}
    if spec.reproduction.mode == "measured":
        changes["reproduction"] = {"mode": "spot", "patches": ()}
    return updated(spec, changes)


def with_start(spec: JobSpec, part: RecipePart, source: str) -> JobSpec:
    """Return the job with settings to begin with, where no recipe is known.

    Parameters
    ----------
    part : RecipePart
        The settings.
    source : str
        What they were taken from; the job says so until a recipe vouches for it.
    """
    burn = {name: getattr(part, name) for name in BURN_SETTINGS}
    changes: dict[str, dict[str, Any]] = {"burn": {**burn, "begun_with": source[:200]}}
    if not spec.keeps_dots:
        changes["size"] = {"pitch_mm": part.pitch_mm, "dot_pitch_mm": None}
    return updated(without_recipe(spec), changes)
