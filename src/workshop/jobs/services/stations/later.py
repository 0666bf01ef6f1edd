"""The stations after the dots: burn, place."""

from typing import Any

from engraving.place import anchor_point, from_anchor, piece_box
from engraving.spec import JobSpec, MachinePart
from workshop.jobs.models import Job
from workshop.jobs.services.stations.blank import take_first_recipe
from workshop.jobs.services.stations.edit import Edit
from workshop.jobs.services.tickets import centre_on_bed, updated, with_recipe

# Burn


def show_burn(spec: JobSpec, job: Job) -> dict[str, Any]:
    """Return what the burn station's fields show."""
    burn = spec.burn
    return {
        "machine": job.machine_id,
        "recipe": job.recipe_id,
        "speed": burn.speed_mm_s,
        "power": burn.power,
        "passes": burn.passes,
        "direction": "both" if burn.both_ways else "one",
        "again": False,
    }


def apply_burn(edit: Edit) -> None:
    """Apply what was changed on the burn station."""
    if edit.has("machine"):
        _choose_machine(edit)
    elif edit.has("recipe"):
        recipe = edit.changes["recipe"]
        edit.relations["recipe"] = recipe.pk if recipe else None
        edit.spec = (
            with_recipe(edit.spec, recipe)
            if recipe
            else updated(edit.spec, {"burn": {"recipe": ""}})
        )
    if edit.changes.get("again") and edit.job.recipe:
        edit.spec = with_recipe(edit.spec, edit.job.recipe)
    by_hand: dict[str, Any] = {}
    if edit.has("speed"):
        by_hand["speed_mm_s"] = edit.changes["speed"]
    for name in ("power", "passes"):
        if edit.has(name):
            by_hand[name] = edit.changes[name]
    if edit.has("direction"):
        by_hand["both_ways"] = edit.changes["direction"] == "both"
    edit.spec = updated(edit.spec, {"burn": by_hand})


def _choose_machine(edit: Edit) -> None:
    machine = edit.changes["machine"]
    edit.relations["machine"] = machine.pk if machine else None
    part = machine.part if machine else MachinePart().model_dump(mode="json")
    edit.spec = updated(edit.spec, {"machine": part})
    take_first_recipe(edit)
    edit.spec = centre_on_bed(edit.spec)


# Place


def show_place(spec: JobSpec, _job: Job) -> dict[str, Any]:
    """Return what the place station's fields show."""
    x, y = anchor_point(piece_box(spec.size, spec.place), spec.place.anchor)
    return {"anchor": spec.place.anchor, "x": x, "y": y, "centre": False}


def apply_place(edit: Edit) -> None:
    """Apply what was changed on the place station."""
    spec = edit.spec
    if edit.changes.get("centre"):
        edit.spec = centre_on_bed(spec)
        return
    if edit.has("x", "y"):
        shown = show_place(spec, edit.job)
        anchor = edit.changes.get("anchor", shown["anchor"])
        x = edit.changes.get("x", shown["x"])
        y = edit.changes.get("y", shown["y"])
        left, front = from_anchor(spec.size, anchor, x, y)
        spec = updated(spec, {"place": {"x_mm": left, "y_mm": front}})
    if edit.has("anchor"):
        spec = updated(spec, {"place": {"anchor": edit.changes["anchor"]}})
    edit.spec = spec
