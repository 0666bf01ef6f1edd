"""The stations after the dots: burn, place."""

from typing import Any

from engraving.errors import InputError
from engraving.place import anchor_of, from_anchor
from engraving.spec import FixturePart, JobSpec, MachinePart
from workshop.jobs.models import Job
from workshop.jobs.services.fixture import changed_fixture, fixture_facts, shown_pocket
from workshop.jobs.services.mount import apply_mount, show_mount
from workshop.jobs.services.points import apply_points, read_from
from workshop.jobs.services.revisions import updated
from workshop.jobs.services.stations.across import lay_across, take_off_across
from workshop.jobs.services.stations.blank import take_first_recipe
from workshop.jobs.services.stations.edit import Edit
from workshop.jobs.services.tickets import (
    centre_on_bed,
    with_recipe,
    with_start,
    without_recipe,
)
from workshop.shelf.models import Recipe
from workshop.shelf.services import start_recipe

# Burn


def show_burn(spec: JobSpec, job: Job) -> dict[str, Any]:
    """Return what the burn station's fields show."""
    burn = spec.burn
    return {
        "machine": job.machine_id,
        "recipe": job.recipe_id,
        "fitting": _fitting(job),
        "speed": burn.speed_mm_s,
        "power": burn.power,
        "passes": burn.passes,
        "direction": "both" if burn.both_ways else "one",
        "rows": burn.rows,
        "cross": burn.cross,
        "air": burn.air,
        "focus": burn.focus_mm,
        "pulse_khz": burn.pulse_khz,
        "pulse_ns": burn.pulse_ns,
        "again": False,
        "start": False,
        "variant": "",
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
    if edit.has("direction"):
        both = edit.changes["direction"] == "both"
        edit.spec = updated(edit.spec, {"burn": {"both_ways": both}})
    if edit.changes.get("variant"):
        _take_variant(edit)


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
    take_first_recipe(edit)
    edit.spec = centre_on_bed(edit.spec)


# Place


def show_place(spec: JobSpec, _job: Job) -> dict[str, Any]:
    """Return what the place station's fields show."""
    x, y = anchor_of(spec.size, spec.place, spec.place.anchor)
    from_x, from_y = read_from(spec)
    fixture = spec.fixture or FixturePart(columns=2)
    return {
        "anchor": spec.place.anchor,
        "x": x - from_x,
        "y": y - from_y,
        "centre": False,
        "turn": spec.place.turn_deg,
        "zero": spec.place.zero,
        "point": spec.place.point,
        "point_keep": "",
        "point_drop": "",
        "fixture": spec.fixture is not None,
        "columns": fixture.columns,
        "rows": fixture.rows,
        "gap_x": fixture.gap_x_mm,
        "gap_y": fixture.gap_y_mm,
        "order": fixture.order,
        "picture": fixture.picture,
        "gap": fixture.gap,
        "pause": fixture.pause,
        "first_number": fixture.first_number,
        "digits": fixture.digits,
        "words": fixture_facts(spec).get("words", ""),
        **shown_pocket(spec),
        "shown": None,
        "pocket_toggle": None,
        **show_mount(spec),
    }


def apply_place(edit: Edit) -> None:
    """Apply what was changed on the place station."""
    apply_mount(edit)
    _apply_fixture(edit)
    apply_points(edit)
    if edit.has("mount"):
        edit.spec = centre_on_bed(edit.spec)
    if edit.has("turn"):
        edit.spec = updated(edit.spec, {"place": {"turn_deg": edit.changes["turn"] or 0.0}})
    spec = edit.spec
    if edit.changes.get("centre"):
        edit.spec = centre_on_bed(spec)
        return
    if edit.has("x", "y"):
        shown = show_place(spec, edit.job)
        anchor = edit.changes.get("anchor", shown["anchor"])
        x = edit.changes.get("x", shown["x"])
        y = edit.changes.get("y", shown["y"])
        from_x, from_y = read_from(spec)
        turn = spec.place.turn_deg
        left, front = from_anchor(spec.size, anchor, x + from_x, y + from_y, turn)
        spec = updated(spec, {"place": {"x_mm": left, "y_mm": front}})
    if edit.has("anchor"):
        spec = updated(spec, {"place": {"anchor": edit.changes["anchor"]}})
    edit.spec = spec


_OF_FIXTURE = {
    "columns", "rows", "gap_x", "gap_y", "order", "picture", "gap", "pause", "first_number",
    "digits", "words", "shown", "pocket_toggle", "pocket_x", "pocket_y", "pocket_turn",
    "pocket_grid",
}  # fmt: skip


def _apply_fixture(edit: Edit) -> None:
    """Switch the fixture on or off, or change it; a new one is laid in the bed's middle."""
    if edit.has("fixture") and not edit.changes["fixture"]:
        take_off_across(edit)
        edit.spec = updated(edit.spec, {"fixture": None})
        return
    fresh = edit.has("fixture")
    if not fresh and (edit.spec.fixture is None or not edit.has(*_OF_FIXTURE)):
        return
    before = edit.spec.fixture or FixturePart(columns=2)
    data = changed_fixture(edit.spec, before, edit.changes)
    if edit.has("picture") and edit.changes["picture"] != "across":
        take_off_across(edit)
    edit.spec = updated(edit.spec, {"fixture": data})
    if edit.has("picture", "columns", "rows", "gap", "gap_x", "gap_y"):
        lay_across(edit)
    if fresh or edit.has("columns", "rows"):
        edit.spec = centre_on_bed(edit.spec)
