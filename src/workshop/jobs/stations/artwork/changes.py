"""The Artwork station: file, squaring, crop, gray mix."""

import json
from typing import Any

from engraving.artwork.mix import MIXES
from engraving.check import kept_dots
from engraving.errors import InputError
from engraving.jobspec import ArtworkPart, Crop, JobSpec
from workshop.jobs.models import Artwork, Job
from workshop.jobs.pictures.intake import file_cell_mm, page_size
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.artwork.across import lay_across
from workshop.jobs.stations.edit import Edit, refitted, resized
from workshop.shell.numbers import whole


def show_artwork(spec: JobSpec, job: Job) -> dict[str, Any]:
    """Return what the station's fields show of the picture itself."""
    part = spec.artwork
    return {
        "name": spec.name,
        "customer": job.customer,
        "due": job.due,
        "note": job.note,
        "sheet": f"{job.artwork_id}-{part.page}",
        "ground": part.ground.value,
        "ground_gray": part.ground_gray,
        "keep_dots": part.keep_dots,
        "holds": part.holds,
        "turn": "",
        "mirror": part.mirror,
        "straighten": part.straighten_deg,
        "corners": "",
        "lock_ratio": part.lock_ratio,
        "crop_left": part.crop.left,
        "crop_top": part.crop.top,
        "crop_width": part.crop.width,
        "crop_height": part.crop.height,
        "mix": mix_name(part),
        "red": part.mix.red,
        "green": part.mix.green,
        "blue": part.mix.blue,
        "drop_add": "",
        "drop_remove": "",
        **{f"drop{i}": one.tolerance for i, one in enumerate(part.dropped)},
    }


def mix_name(part: ArtworkPart) -> str:
    """Return the name of the starting point a mix is, empty when it is its own."""
    for name, mix in MIXES.items():
        if mix.weights == part.mix.weights:
            return name
    return ""


def apply_artwork(edit: Edit) -> None:
    """Apply what was changed of the picture itself."""
    if edit.has("sheet"):
        _choose_sheet(edit)
    edit.take(
        "artwork", ground="ground", ground_gray="ground_gray", lock_ratio="lock_ratio",
        holds="holds",
    )  # fmt: skip
    _mix(edit)
    _drop(edit)
    if edit.has("keep_dots"):
        _keep_dots(edit)
    if edit.has("corners"):
        _corners(edit)
    if edit.has("straighten"):
        edit.take("artwork", straighten="straighten_deg")
        edit.spec = refitted(edit.spec)
    _crop_and_turn(edit)


def _choose_sheet(edit: Edit) -> None:
    """Take another page or file; what was drawn on the old one goes."""
    key, _, page = str(edit.changes["sheet"]).partition("-")
    sheets = [edit.job.artwork, *edit.job.sheets.all()]
    artwork = next((item for item in sheets if str(item.pk) == key), None)
    at = whole(page)
    if artwork is None or at is None:
        raise InputError("There is no such page.", field="sheet")
    width, height = page_size(artwork, at)
    edit.relations["artwork"] = artwork.pk
    edit.spec = with_picture(edit.spec, artwork, at, width, height)
    lay_across(edit)


def with_picture(
    spec: JobSpec, artwork: Artwork, page: int, width: int, height: int
) -> JobSpec:
    """Return the job with another picture; what was drawn on the old one goes."""
    fresh = ArtworkPart(
        file=artwork.name,
        sha256=artwork.sha256,
        page=page,
        width_px=width,
        height_px=height,
        ground=spec.artwork.ground,
        ground_gray=spec.artwork.ground_gray,
        mix=spec.artwork.mix,
        lock_ratio=spec.artwork.lock_ratio,
    )
    spec = spec.model_copy(update={"artwork": fresh})
    spec = updated(spec, {"mask": {"edits": []}, "retouch": {"strokes": []}})
    return refitted(spec)


def _mix(edit: Edit) -> None:
    name = edit.changes.get("mix")
    if name:
        edit.spec = updated(edit.spec, {"artwork": {"mix": MIXES[name].model_dump()}})
    weights = {
        name: edit.changes[name] for name in ("red", "green", "blue") if edit.has(name)
    }
    if weights:
        mix = {**edit.spec.artwork.mix.model_dump(), **weights}
        edit.spec = updated(edit.spec, {"artwork": {"mix": mix}})


def _drop(edit: Edit) -> None:
    dropped = [one.model_dump() for one in edit.spec.artwork.dropped]
    for i, one in enumerate(dropped):
        one["tolerance"] = edit.changes.get(f"drop{i}", one["tolerance"])
    if edit.changes.get("drop_add"):
        dropped.append({"colour": edit.changes["drop_add"]})
    gone = whole(str(edit.changes.get("drop_remove", "")))
    if gone is not None and gone < len(dropped):
        del dropped[gone]
    if dropped != [one.model_dump() for one in edit.spec.artwork.dropped]:
        edit.spec = updated(edit.spec, {"artwork": {"dropped": dropped}})


def _keep_dots(edit: Edit) -> None:
    keep = edit.changes["keep_dots"]
    if not keep:
        edit.spec = updated(edit.spec, {"artwork": {"keep_dots": False}})
        return
    changes = kept_dots(edit.spec, file_cell_mm(edit.spec, edit.job))
    size = changes["size"]
    edit.spec = resized(edit.spec, size.pop("width_mm"), size.pop("height_mm"), **size)
    edit.spec = updated(edit.spec, {"artwork": changes["artwork"]})


def _corners(edit: Edit) -> None:
    text = edit.changes["corners"]
    if text == "none":
        corners = None
    else:
        try:
            corners = json.loads(text)
        except ValueError:
            raise InputError("The four corners cannot be read.", field="corners") from None
    part = {"corners": corners, "crop": Crop().model_dump()}
    edit.spec = refitted(updated(edit.spec, {"artwork": part}))


def _crop_and_turn(edit: Edit) -> None:
    part = edit.spec.artwork
    new: dict[str, Any] = {}
    if edit.has("mirror"):
        new["mirror"] = edit.changes["mirror"]
    crop = {
        name: edit.changes[f"crop_{name}"]
        for name in ("left", "top", "width", "height")
        if edit.has(f"crop_{name}")
    }
    if crop:
        new["crop"] = _inside({**part.crop.model_dump(), **crop})
    turn = edit.changes.get("turn")
    if turn:
        clockwise = (turn == "right") != new.get("mirror", part.mirror)
        new["turns"] = (part.turns + (1 if clockwise else 3)) % 4
        new["crop"] = _turned(part.crop, right=turn == "right")
    if edit.has("mirror") and not crop:
        old = part.crop
        new["crop"] = {**old.model_dump(), "left": max(1 - old.left - old.width, 0)}
    if not new:
        return
    if turn:
        size = edit.spec.size
        sides = {"width_mm": size.height_mm, "height_mm": size.width_mm}
        edit.spec = updated(edit.spec, {"artwork": new, "size": sides})
        if size.fit != "exact":
            edit.spec = refitted(edit.spec)
    elif crop and edit.spec.keeps_dots:
        edit.spec = _cropped_dots(edit.spec, new)
    else:
        edit.spec = updated(edit.spec, {"artwork": new})
        if crop:
            edit.spec = refitted(edit.spec)


def _cropped_dots(spec: JobSpec, new: dict[str, Any]) -> JobSpec:
    """Crop by whole dots; the size follows at once, for they belong together."""
    _, _, before, _ = spec.artwork.window_px
    times = max(1, round(spec.size.cols / before))
    part = spec.artwork.model_copy(update={"crop": Crop.model_validate(new["crop"])})
    _, _, across, down = part.window_px
    along, pitch = (cell * times for cell in spec.size.cell_mm)
    size = {"width_mm": across * along, "height_mm": down * pitch}
    return updated(spec, {"artwork": new, "size": size})


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
