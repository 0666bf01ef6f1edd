"""What each station shows of a job, and what its changes do.

One pair of functions a station: ``_show_…`` returns the form's values,
``_apply_…`` returns the changed job. Everything tied follows here: height
follows width, pitch follows dpi, x and y follow the anchor.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from engraving.place import anchor_point, from_anchor, piece_box
from engraving.spec import Crop, JobSpec, MachinePart
from engraving.units import dpi_to_pitch
from workshop.jobs.models import Job
from workshop.jobs.services.pictures import begin
from workshop.jobs.services.tickets import (
    centre_on_bed,
    change,
    fitting_width,
    rename,
    spec_of,
    updated,
    with_recipe,
)
from workshop.shelf.models import Blank, Recipe, Substrate


@dataclass
class Edit:
    """A change under way."""

    spec: JobSpec
    changes: dict[str, Any]
    job: Job
    relations: dict[str, int | None] = field(default_factory=dict)

    def has(self, *names: str) -> bool:
        """Whether any of these fields was changed."""
        return any(name in self.changes for name in names)


def station_values(job: Job, station: str) -> dict[str, Any]:
    """Return the values of a station's form."""
    return _SHOW[station](spec_of(job), job)


def change_station(job: Job, station: str, changes: dict[str, Any]) -> bool:
    """Apply the changed fields of a station; return whether anything changed.

    Raises
    ------
    EngravingError
        When the result is no valid job; ``field`` names the value at fault.
    """
    if station == "artwork" and {"name", "customer"} & set(changes):
        rename(job, changes.get("name", ""), changes.get("customer", job.customer))
    edit = Edit(spec_of(job), changes, job)
    _APPLY[station](edit)
    touched = f"{station}:{','.join(sorted(changes))}"
    label = ", ".join(_LABELS.get(name, name) for name in sorted(changes))
    if station in ("tone", "dots"):
        begin(job.number, edit.spec)
    return change(job, edit.spec, label or station, touched, edit.relations)


# Artwork


def _show_artwork(spec: JobSpec, job: Job) -> dict[str, Any]:
    crop = spec.artwork.crop
    return {
        "name": spec.name,
        "customer": job.customer,
        "turn": "",
        "mirror": spec.artwork.mirror,
        "lock_ratio": spec.artwork.lock_ratio,
        "crop_left": crop.left,
        "crop_top": crop.top,
        "crop_width": crop.width,
        "crop_height": crop.height,
    }


def _apply_artwork(edit: Edit) -> None:
    part = edit.spec.artwork
    new = part.model_dump()
    for name in ("mirror", "lock_ratio"):
        if edit.has(name):
            new[name] = edit.changes[name]
    crop = {
        name: edit.changes[f"crop_{name}"]
        for name in ("left", "top", "width", "height")
        if edit.has(f"crop_{name}")
    }
    if crop:
        new["crop"] = _inside({**new["crop"], **crop})
    turn = edit.changes.get("turn")
    if turn:
        clockwise = (turn == "right") != new["mirror"]
        new["turns"] = (part.turns + (1 if clockwise else 3)) % 4
        new["crop"] = _turned(part.crop, right=turn == "right")
    if edit.has("mirror") and not crop:
        old = part.crop
        new["crop"] = {**old.model_dump(), "left": max(1 - old.left - old.width, 0)}
    edit.spec = updated(edit.spec, {"artwork": new})
    if turn:
        size = edit.spec.size
        edit.spec = updated(
            edit.spec, {"size": {"width_mm": size.height_mm, "height_mm": size.width_mm}}
        )
    elif crop:
        _resize(edit, "width", edit.spec.size.width_mm)


def _inside(crop: dict[str, float]) -> dict[str, float]:
    """Hold a crop inside the picture against rounding."""
    width, height = min(crop["width"], 1.0), min(crop["height"], 1.0)
    return {
        "left": min(crop["left"], 1 - width),
        "top": min(crop["top"], 1 - height),
        "width": width,
        "height": height,
    }


def _turned(crop: Crop, *, right: bool) -> dict[str, float]:
    if right:
        left, top = 1 - crop.top - crop.height, crop.left
    else:
        left, top = crop.top, 1 - crop.left - crop.width
    return _inside(
        {
            "left": max(left, 0),
            "top": max(top, 0),
            "width": crop.height,
            "height": crop.width,
        }
    )


def _resize(edit: Edit, lead: str, value_mm: float) -> None:
    """Set one side; the other follows by the picture's ratio.

    The piece's anchor stays where it is on the bed.
    """
    spec, ratio = edit.spec, edit.spec.artwork.ratio
    x, y = anchor_point(piece_box(spec.size, spec.place), spec.place.anchor)
    wide = lead == "width"
    size = {
        "width_mm": value_mm if wide else value_mm * ratio,
        "height_mm": value_mm / ratio if wide else value_mm,
    }
    spec = updated(spec, {"size": size})
    left, front = from_anchor(spec.size, spec.place.anchor, x, y)
    edit.spec = updated(spec, {"place": {"x_mm": left, "y_mm": front}})


# Blank


def _show_blank(spec: JobSpec, job: Job) -> dict[str, Any]:
    size = spec.size
    return {
        "blank": job.blank_id,
        "substrate": job.substrate_id,
        "width": size.width_mm,
        "height": size.height_mm,
        "dpi": size.dpi,
        "pitch": size.pitch_mm,
        "keep_inside": spec.blank.keep_inside,
        "fit": False,
    }


def _apply_blank(edit: Edit) -> None:
    if edit.has("blank"):
        _choose_blank(edit, edit.changes["blank"])
    if edit.has("substrate"):
        _choose_substrate(edit, edit.changes["substrate"])
    if edit.has("keep_inside"):
        keep = {"keep_inside": edit.changes["keep_inside"]}
        edit.spec = updated(edit.spec, {"blank": keep})
    if edit.changes.get("fit"):
        _fit(edit)
    for lead in ("height", "width"):
        if edit.has(lead):
            _resize(edit, lead, edit.changes[lead])
    if edit.has("dpi"):
        pitch = dpi_to_pitch(edit.changes["dpi"])
        edit.spec = updated(edit.spec, {"size": {"pitch_mm": pitch}})
    if edit.has("pitch"):
        edit.spec = updated(edit.spec, {"size": {"pitch_mm": edit.changes["pitch"]}})


def _choose_blank(edit: Edit, blank: Blank | None) -> None:
    edit.relations["blank"] = blank.pk if blank else None
    part = blank.part if blank else {"name": "Bare bed"}
    if not blank:
        machine = edit.spec.machine
        part["width_mm"], part["height_mm"] = machine.bed_width_mm, machine.bed_height_mm
    edit.spec = updated(edit.spec, {"blank": part})
    if blank and blank.substrate and blank.substrate_id != edit.job.substrate_id:
        _choose_substrate(edit, blank.substrate)


def _choose_substrate(edit: Edit, substrate: Substrate | None) -> None:
    edit.relations["substrate"] = substrate.pk if substrate else None
    if substrate:
        edit.spec = updated(edit.spec, {"substrate": substrate.part})
    _take_first_recipe(edit)


def _take_first_recipe(edit: Edit) -> None:
    machine = edit.relations.get("machine", edit.job.machine_id)
    substrate = edit.relations.get("substrate", edit.job.substrate_id)
    recipe = Recipe.objects.fitting(machine, substrate).first()
    edit.relations["recipe"] = recipe.pk if recipe else None
    if recipe:
        edit.spec = with_recipe(edit.spec, recipe)
    else:
        edit.spec = updated(edit.spec, {"burn": {"recipe": ""}})


def _fit(edit: Edit) -> None:
    _resize(edit, "width", fitting_width(edit.spec))


# Tone


def _show_tone(spec: JobSpec, _job: Job) -> dict[str, Any]:
    return spec.tone.model_dump()


def _apply_tone(edit: Edit) -> None:
    edit.spec = updated(edit.spec, {"tone": edit.changes})


# Dots


def _show_dots(spec: JobSpec, _job: Job) -> dict[str, Any]:
    return spec.dots.model_dump(mode="json")


def _apply_dots(edit: Edit) -> None:
    edit.spec = updated(edit.spec, {"dots": edit.changes})


# Burn


def _show_burn(spec: JobSpec, job: Job) -> dict[str, Any]:
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


def _apply_burn(edit: Edit) -> None:
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
    _take_first_recipe(edit)
    edit.spec = centre_on_bed(edit.spec)


# Place


def _show_place(spec: JobSpec, _job: Job) -> dict[str, Any]:
    x, y = anchor_point(piece_box(spec.size, spec.place), spec.place.anchor)
    return {"anchor": spec.place.anchor, "x": x, "y": y, "centre": False}


def _apply_place(edit: Edit) -> None:
    spec = edit.spec
    if edit.changes.get("centre"):
        edit.spec = centre_on_bed(spec)
        return
    if edit.has("x", "y"):
        shown = _show_place(spec, edit.job)
        anchor = edit.changes.get("anchor", shown["anchor"])
        x = edit.changes.get("x", shown["x"])
        y = edit.changes.get("y", shown["y"])
        left, front = from_anchor(spec.size, anchor, x, y)
        spec = updated(spec, {"place": {"x_mm": left, "y_mm": front}})
    if edit.has("anchor"):
        spec = updated(spec, {"place": {"anchor": edit.changes["anchor"]}})
    edit.spec = spec


_SHOW: dict[str, Callable[[JobSpec, Job], dict[str, Any]]] = {
    "artwork": _show_artwork,
    "blank": _show_blank,
    "tone": _show_tone,
    "dots": _show_dots,
    "burn": _show_burn,
    "place": _show_place,
}
_APPLY: dict[str, Callable[[Edit], None]] = {
    "artwork": _apply_artwork,
    "blank": _apply_blank,
    "tone": _apply_tone,
    "dots": _apply_dots,
    "burn": _apply_burn,
    "place": _apply_place,
}
_LABELS = {
    "turn": "Turned",
    "mirror": "Mirrored",
    "crop_left": "Crop",
    "crop_top": "Crop",
    "crop_width": "Crop",
    "crop_height": "Crop",
    "input_black": "Black point",
    "input_white": "White point",
    "x": "Moved",
    "y": "Moved",
    "again": "Back to the recipe",
    "fit": "Fitted to the blank",
    "centre": "Centred on the bed",
}
