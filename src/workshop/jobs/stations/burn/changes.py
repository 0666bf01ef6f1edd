"""The burn station: what its fields show, and what a change of them does."""

from typing import Any

from engraving.errors import InputError
from engraving.jobspec import JobSpec, MachinePart
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.blank.changes import take_first_recipe
from workshop.jobs.stations.dots.ways import in_way, way_for
from workshop.jobs.stations.edit import Edit
from workshop.jobs.stations.shelf_items import (
    centre_on_bed,
    with_recipe,
    with_start,
    without_recipe,
)
from workshop.shelf.models import Recipe
from workshop.shelf.recipes.carry import start_recipe


def show_burn(spec: JobSpec, job: Job) -> dict[str, Any]:
    """Return what the burn station's fields show."""
    burn = spec.burn
    return {
        "machine": job.machine_id,
        "recipe": job.recipe_id,
        "fitting": _fitting(job),
        **{name: getattr(burn, value) for name, value in _BY_HAND.items()},
        "direction": "both" if burn.both_ways else "one",
        "again": False,
        "start": False,
        "variant": "",
        "plunge": spec.marking.carving.plunge_mm_s,
        "rpm": spec.marking.carving.tool.spindle_rpm,
        "warm_up": spec.marking.carving.tool.warm_up_s,
    }


def _fitting(job: Job) -> list[int]:
    """Return the recipes that can be chosen: what fits, and what the job has."""
    found = Recipe.objects.fitting(job.machine_id, job.substrate_id)
    kept = [job.recipe_id] if job.recipe_id else []
    return [*found.values_list("pk", flat=True), *kept]


_BY_HAND = {
    "speed": "speed_mm_s",
    "power": "power",
    "passes": "passes",
    "rows": "rows",
    "cross": "cross",
    "air": "air",
    "focus": "focus_mm",
    "pulse_khz": "pulse_khz",
    "pulse_ns": "pulse_ns",
}


def apply_burn(edit: Edit) -> None:
    """Apply what was changed on the burn station."""
    if edit.has("machine"):
        _choose_machine(edit)
    elif edit.has("recipe"):
        recipe = edit.changes["recipe"]
        edit.relations["recipe"] = recipe.pk if recipe else None
        edit.spec = with_recipe(edit.spec, recipe) if recipe else without_recipe(edit.spec)
    if edit.changes.get("start"):
        _start(edit)
    if edit.changes.get("again") and edit.job.recipe:
        edit.spec = with_recipe(edit.spec, edit.job.recipe)
    edit.take("burn", **_BY_HAND)
    _drive_tool(edit)
    if edit.has("direction"):
        both = edit.changes["direction"] == "both"
        edit.spec = updated(edit.spec, {"burn": {"both_ways": both}})
    if edit.changes.get("variant"):
        _take_variant(edit)


def _drive_tool(edit: Edit) -> None:
    """Take over how a V-tool is driven."""
    carving = edit.spec.marking.carving.model_dump(mode="json")
    before = {**carving, "tool": {**carving["tool"]}}
    for name, value in (("spindle_rpm", "rpm"), ("warm_up_s", "warm_up")):
        if edit.has(value):
            wanted = edit.changes[value]
            carving["tool"][name] = round(wanted) if value == "rpm" else wanted
    if edit.has("plunge"):
        carving["plunge_mm_s"] = edit.changes["plunge"]
    if carving != before:
        edit.spec = updated(edit.spec, {"marking": {"carving": carving}})


def _start(edit: Edit) -> None:
    """Begin with the nearest recipes of the shelf, carried over by equal dose."""
    machine, substrate = edit.job.machine, edit.job.substrate
    found = start_recipe(substrate, machine) if machine and substrate else None
    if found is None:
        raise InputError("No recipe on the shelf is near enough to begin with.")
    part, sources = found
    edit.relations["recipe"] = None
    edit.spec = with_start(edit.spec, part, sources[0])


def _take_variant(edit: Edit) -> None:
    """Burn the same dose another way; where dots are kept, the pitch stays."""
    speed, power, passes, pitch = edit.changes["variant"]
    burn = {"speed_mm_s": speed, "power": power, "passes": passes}
    changes: dict[str, dict[str, Any]] = {"burn": burn}
    if not edit.spec.keeps_dots and pitch != edit.spec.size.pitch_mm:
        changes["size"] = {"pitch_mm": pitch, "dot_pitch_mm": None}
    edit.spec = updated(edit.spec, changes)


def _choose_machine(edit: Edit) -> None:
    machine = edit.changes["machine"]
    edit.relations["machine"] = machine.pk if machine else None
    part = machine.part if machine else MachinePart().model_dump(mode="json")
    edit.spec = updated(edit.spec, {"machine": part})
    way = way_for(edit.spec, edit.spec.machine.kind)
    if way != edit.spec.marking.way and edit.spec.card is None:
        edit.spec = in_way(edit.spec, way)
    take_first_recipe(edit)
    edit.spec = centre_on_bed(edit.spec)
