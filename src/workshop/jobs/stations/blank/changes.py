"""The Blank station: blank, substrate, size, resolution, side."""

from typing import Any

from engraving.errors import InputError
from engraving.jobspec import MOST_APART, ROUND, JobSpec, SubstratePart
from engraving.place import piece_box
from engraving.units import dpi_to_pitch
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.edit import Edit, centred_on_blank, nudged, refitted, resized
from workshop.jobs.stations.shelf_items import (
    last_rotary,
    side_of,
    with_recipe,
    without_recipe,
)
from workshop.shelf.blanks.changes import made_of
from workshop.shelf.models import Blank, Recipe, Substrate
from workshop.shell.services import show_length

_SIDE = {
    "seen_from": "seen_from",
    "printing_plate": "printing_plate",
    "side_mirror": "mirror",
    "side_invert": "invert",
    "side_polarity": "polarity",
}


def show_blank(spec: JobSpec, job: Job) -> dict[str, Any]:
    """Return what the station's fields show."""
    size = spec.size
    return {
        "blank": job.blank_id,
        "substrate": job.substrate_id,
        "restock": False,
        "material": "",
        "colour": spec.substrate.colour,
        "backing": spec.substrate.backing,
        "turned": spec.substrate.texture_turned,
        "fit": size.fit,
        "width": size.width_mm,
        "height": size.height_mm,
        "lock": size.lock_ratio,
        "bleed": size.bleed_mm,
        "offset_x": size.offset_x_mm,
        "offset_y": size.offset_y_mm,
        "centre": False,
        "nudge_x": "",
        "nudge_y": "",
        "dpi": size.dpi,
        "pitch": size.pitch_mm,
        "dot_pitch": size.dot_pitch_mm,
        "lines": 1 / size.pitch_mm,
        "ties": "size",
        "keep_inside": spec.blank.keep_inside,
        **{name: getattr(spec.side, value) for name, value in _SIDE.items()},
    }


def apply_blank(edit: Edit) -> None:
    """Apply what was changed."""
    if edit.has("blank"):
        _choose_blank(edit, edit.changes["blank"])
    if edit.has("substrate"):
        choose_substrate(edit, edit.changes["substrate"])
    if edit.changes.get("restock"):
        _restock(edit)
    if edit.has("colour"):
        _choose_colour(edit)
    edit.take("blank", keep_inside="keep_inside")
    edit.take("substrate", backing="backing", turned="texture_turned")
    edit.take("side", **_SIDE)
    _resolution(edit)
    _size(edit)
    _offsets(edit)


def _choose_blank(edit: Edit, blank: Blank | None) -> None:
    edit.relations["blank"] = blank.pk if blank else None
    if blank is None:
        _onto_the_bed(edit)
        return
    part = dict(blank.part)
    edit.spec = updated(edit.spec, {"blank": _whole(edit.spec, part)})
    _mount_it(edit)
    if blank.substrate and blank.substrate_id != edit.job.substrate_id:
        choose_substrate(edit, blank.substrate)
    if blank.colours:
        paint(edit, blank.colours[0])
    if edit.spec.size.fit != "exact":
        edit.spec = centred_on_blank(refitted(edit.spec))


def _mount_it(edit: Edit) -> None:
    """Turn a wall on the rotary this machine had last; let what is flat lie flat."""
    round_one, mount = edit.spec.blank.shape in ROUND, edit.spec.mount
    if round_one and not mount.rotary and (last := last_rotary(edit.job)):
        edit.spec = updated(edit.spec, {"mount": last, "fixture": None})
    elif mount.rotary and not round_one:
        edit.spec = updated(edit.spec, {"mount": {"kind": "flat"}})


def _onto_the_bed(edit: Edit) -> None:
    """Let the bed itself be the blank: the picture stays as large and where it lies."""
    spec = edit.spec
    if spec.mount.rotary:
        raise InputError("On a rotary there is no bare bed: choose a round blank.")
    machine = spec.machine
    wide, deep = machine.bed_width_mm, machine.bed_height_mm
    part = _whole(spec, {"name": "Bare bed", "width_mm": wide, "height_mm": deep})
    x, y = piece_box(spec.size, spec.place).middle
    across = wide / 2 - x if spec.mirrored else x - wide / 2
    size = {"fit": "exact", "offset_x_mm": across, "offset_y_mm": y - deep / 2}
    edit.spec = updated(spec, {"blank": part, "size": size})


def _whole(spec: JobSpec, part: dict[str, Any]) -> dict[str, Any]:
    """Return every value of a blank, so that nothing of the last one stays."""
    plain = type(spec.blank)().model_dump(mode="json")
    return {**plain, **part}


def choose_substrate(edit: Edit, substrate: Substrate | None) -> None:
    """Take a substrate's values and its first recipe for this machine."""
    edit.relations["substrate"] = substrate.pk if substrate else None
    part = SubstratePart.model_validate(substrate.part) if substrate else SubstratePart()
    parts = {"substrate": part, "side": side_of(edit.spec, part)}
    edit.spec = updated(
        edit.spec, {name: one.model_dump(mode="json") for name, one in parts.items()}
    )
    take_first_recipe(edit)


def _restock(edit: Edit) -> None:
    """Let the job's blank be one of its substrate: on the shelf, where there is none."""
    blank, substrate = edit.job.blank, edit.job.substrate
    if blank is None or substrate is None or blank.substrate_id == substrate.pk:
        return
    edit.relations["blank"] = made_of(blank, substrate).pk
    edit.spec = updated(edit.spec, {"blank": {"name": made_of(blank, substrate).name}})


def take_first_recipe(edit: Edit) -> None:
    """Take the first recipe that fits machine and substrate, if any."""
    machine = edit.relations.get("machine", edit.job.machine_id)
    substrate = edit.relations.get("substrate", edit.job.substrate_id)
    recipe = Recipe.objects.fitting(machine, substrate).first()
    edit.relations["recipe"] = recipe.pk if recipe else None
    if recipe:
        edit.spec = with_recipe(edit.spec, recipe)
    else:
        edit.spec = without_recipe(edit.spec)


def _choose_colour(edit: Edit) -> None:
    blank = edit.job.blank
    colours = blank.colours if blank else []
    found = [one for one in colours if one["name"] == edit.changes["colour"]]
    if not found:
        raise InputError("The blank does not come in that colour.", field="colour")
    paint(edit, found[0])


def paint(edit: Edit, colour: dict[str, str]) -> None:
    """Give the substrate the look of one of a blank's colours."""
    values = {"colour": colour["name"], "ground": colour["ground"]}
    if colour.get("mark"):
        values["mark"] = colour["mark"]
    edit.spec = updated(edit.spec, {"substrate": values})


def _resolution(edit: Edit) -> None:
    pitch = None
    if edit.has("dpi"):
        pitch = dpi_to_pitch(edit.changes["dpi"])
    if edit.has("lines"):
        pitch = 1 / edit.changes["lines"]
    if edit.has("pitch"):
        pitch = edit.changes["pitch"]
    size = edit.spec.size
    apart = edit.changes.get("dot_pitch", size.dot_pitch_mm)
    pitch = pitch or size.pitch_mm
    if (pitch, apart) == (size.pitch_mm, size.dot_pitch_mm):
        return
    _hold_apart(edit, pitch, apart)
    new = {"pitch_mm": pitch, "dot_pitch_mm": apart}
    if edit.spec.keeps_dots:
        # Dots stay dots: the size follows.
        wide, high = (apart or pitch) / size.along_mm, pitch / size.pitch_mm
        edit.spec = resized(edit.spec, size.width_mm * wide, size.height_mm * high, **new)
    else:
        edit.spec = updated(edit.spec, {"size": new})


def _hold_apart(edit: Edit, pitch: float, apart: float | None) -> None:
    """Refuse dots and rows that lie too unlike, at the field that was changed."""
    if apart is None or 1 / MOST_APART <= apart / pitch <= MOST_APART:
        return
    least, most = show_length(pitch / MOST_APART, 3), show_length(pitch * MOST_APART, 3)
    raise InputError(
        f"Dots may lie {least} to {most} apart on these rows.",
        field="dot_pitch" if edit.has("dot_pitch") else "pitch",
    )


def _size(edit: Edit) -> None:
    edit.take("size", fit="fit", lock="lock_ratio", bleed="bleed_mm")
    if edit.has("fit"):
        cut = edit.changes["fit"] == "cover"
        if cut:
            edit.spec = updated(edit.spec, {"blank": {"keep_inside": True}})
        edit.spec = refitted(edit.spec)
        if edit.changes["fit"] != "exact":
            edit.spec = centred_on_blank(edit.spec)
    elif edit.has("bleed", "lock"):
        edit.spec = refitted(edit.spec)
    for lead in ("height", "width"):
        if edit.has(lead):
            _typed(edit, lead, edit.changes[lead])


def _typed(edit: Edit, lead: str, value_mm: float) -> None:
    """Set one side; the other follows by the picture's ratio while it is locked."""
    spec = edit.spec
    if spec.keeps_dots:
        edit.spec = _typed_dots(edit, lead, value_mm)
        return
    size, ratio = spec.size, spec.artwork.ratio
    wide = lead == "width"
    if size.lock_ratio:
        width, height = (
            (value_mm, value_mm / ratio) if wide else (value_mm * ratio, value_mm)
        )
    else:
        width = value_mm if wide else size.width_mm
        height = size.height_mm if wide else value_mm
    edit.spec = resized(spec, width, height, fit="exact")


def _typed_dots(edit: Edit, lead: str, value_mm: float) -> JobSpec:
    """Size a picture whose dots are kept: by whole multiples, or through the pitch."""
    spec = edit.spec
    _, _, across, down = spec.artwork.window_px
    size = spec.size
    count, cell = (across, size.along_mm) if lead == "width" else (down, size.pitch_mm)
    finer = 1.0
    if edit.changes.get("ties") == "pitch":
        times = max(1, round(size.cols / across))
        finer = value_mm / (count * times) / cell
    else:
        times = round(value_mm / (count * cell))
        if times < 1 or abs(times * count * cell - value_mm) > cell / 2:
            works = ", ".join(f"{n * count * cell:.2f}" for n in (1, 2, 3, 4))
            raise InputError(
                f"Kept dots must stay whole: {works} mm work at this row pitch.", field=lead
            )
    along, pitch = (side * finer for side in size.cell_mm)
    new: dict[str, Any] = {"pitch_mm": pitch, "fit": "exact"}
    if size.dot_pitch_mm:
        new["dot_pitch_mm"] = along
    return resized(spec, across * times * along, down * times * pitch, **new)


def _offsets(edit: Edit) -> None:
    if edit.changes.get("centre"):
        edit.spec = centred_on_blank(edit.spec)
    size = edit.spec.size
    x = edit.changes.get("offset_x", size.offset_x_mm) - size.offset_x_mm
    y = edit.changes.get("offset_y", size.offset_y_mm) - size.offset_y_mm
    x += float(edit.changes.get("nudge_x") or 0)
    y += float(edit.changes.get("nudge_y") or 0)
    if x or y:
        edit.spec = nudged(edit.spec, x, y)
