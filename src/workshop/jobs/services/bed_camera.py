"""The camera over a machine's bed: calibrated, looked through, pieces laid by it."""

import io
import math
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from django.utils import timezone
from numpy.typing import NDArray
from PIL import Image

from engraving.camera import (
    BedCamera,
    FoundBlank,
    bed_marks,
    calibrate,
    find_blanks,
    marks_picture,
)
from engraving.errors import InputError
from engraving.place import turned_about
from engraving.spec import (
    MOST_POCKETS,
    ArtworkPart,
    BlankPart,
    JobSpec,
    MachinePart,
    PlacePart,
    SubstratePart,
)
from engraving.units import png_density
from workshop.jobs.models import Job
from workshop.jobs.services.intake import keep_artwork
from workshop.jobs.services.lying import from_picture
from workshop.jobs.services.revisions import change, spec_of, updated
from workshop.jobs.services.tickets import open_described, with_recipe
from workshop.shelf.models import Machine, Recipe
from workshop.shelf.services.photos import keep_image, read_photo

_LONGEST_PX = 6000
_MOST_PX_MM = 4.0
_LONGEST_LOOK_PX = 1800
_WIDEST_PITCH_MM = 0.2


def open_marks(job: Job) -> Job:
    """Open a ticket for the marks card of a job's machine, in the job's material.

    Raises
    ------
    InputError
        When the machine or substrate left the shelf, or marks without a beam.
    """
    machine, substrate = _machine_of(job), job.substrate
    part = MachinePart.model_validate(machine.part)
    if part.touches:
        raise InputError(f"{machine} marks without a beam; its marks would be too thin.")
    if substrate is None:
        raise InputError("Choose a substrate first; the marks are burned in it.")
    found = Recipe.objects.fitting(machine.pk, substrate.pk).first()
    spec = JobSpec(
        name=f"Camera marks, {machine}"[:200],
        machine=part,
        substrate=SubstratePart.model_validate(substrate.part),
    )
    spec = with_recipe(spec, found) if found else spec
    spec = _with_marks(spec, min(spec.size.pitch_mm, _WIDEST_PITCH_MM))
    artwork = keep_artwork(spec.artwork.file, [_marks_png(spec)])
    kept = {"sha256": artwork.sha256, "width_px": artwork.width_px,
            "height_px": artwork.height_px}  # fmt: skip
    spec = updated(spec, {"artwork": kept})
    relations = {"machine": machine.pk, "substrate": substrate.pk,
                 "recipe": found.pk if found else None}  # fmt: skip
    return open_described(artwork, spec, relations)


def _with_marks(spec: JobSpec, pitch_mm: float) -> JobSpec:
    """Return a job that burns its machine's marks where they belong."""
    machine = spec.machine
    left, front, *_ = bed_marks(machine).box()
    picture = marks_picture(machine, pitch_mm)
    size = {
        "width_mm": picture.shape[1] * pitch_mm, "height_mm": picture.shape[0] * pitch_mm,
        "pitch_mm": pitch_mm, "dot_pitch_mm": None, "fit": "exact", "lock_ratio": False,
    }  # fmt: skip
    artwork = ArtworkPart(
        file="Camera marks.png", keep_dots=True, width_px=picture.shape[1],
        height_px=picture.shape[0],
    )  # fmt: skip
    card = BlankPart(
        name="Card over the bed", width_mm=machine.bed_width_mm,
        height_mm=machine.bed_height_mm,
    )  # fmt: skip
    plain = spec.model_copy(update={
        "artwork": artwork, "blank": card, "place": PlacePart(x_mm=left, y_mm=front)
    })  # fmt: skip
    return updated(plain, {"size": size})


def _marks_png(spec: JobSpec) -> bytes:
    codes = marks_picture(spec.machine, spec.size.pitch_mm)
    stream = io.BytesIO()
    image = Image.fromarray(codes if spec.burns_dark else 255 - codes)
    image.save(stream, "PNG", dpi=png_density(spec.size.cell_mm))
    return stream.getvalue()


def calibrate_by(machine: Machine, photo: bytes) -> BedCamera:
    """Find out how a machine's camera sees its bed, from a photo of its marks card.

    Raises
    ------
    EngravingError
        When it is no picture, or too few marks are found; what was known stays.
    """
    camera = calibrate(_codes(photo), MachinePart.model_validate(machine.part))
    machine.camera = {**camera.to_dict(), "day": timezone.localdate().isoformat()}
    machine.bed_seen = {}
    machine.save(update_fields=["camera", "bed_seen"])
    return camera


def look_at_bed(machine: Machine, photo: bytes) -> int:
    """Lay a photo under a machine's bed drawing; return how many blanks it shows.

    Raises
    ------
    EngravingError
        When it is no picture, or not one of the calibrated camera.
    """
    camera, part = camera_of(machine), MachinePart.model_validate(machine.part)
    if camera is None:
        raise InputError("Calibrate the camera first.")
    longest = max(part.bed_width_mm, part.bed_height_mm)
    px_mm = min(_MOST_PX_MM, _LONGEST_LOOK_PX / longest)
    seen = camera.look(_codes(photo), part, px_mm)
    found = find_blanks(seen, px_mm)
    machine.bed_seen = {
        "photo": keep_image(Image.fromarray(seen), photo_path),
        "when": timezone.now().isoformat(),
        "found": [asdict(one) for one in found],
    }
    machine.save(update_fields=["bed_seen"])
    return len(found)


def forget_photo(machine: Machine) -> None:
    """Take the photo away from under the bed drawing."""
    machine.bed_seen = {}
    machine.save(update_fields=["bed_seen"])


def _codes(photo: bytes) -> NDArray[np.uint8]:
    return np.asarray(read_photo(io.BytesIO(photo), _LONGEST_PX))


def photo_path(key: str) -> Path:
    """Return where a photo of a bed lies."""
    return Path(settings.MEDIA_ROOT) / "beds" / f"{key}.jpg"


def camera_of(machine: Machine) -> BedCamera | None:
    """Return a machine's calibrated camera, if it has one."""
    kept = {name: value for name, value in machine.camera.items() if name != "day"}
    return BedCamera.from_dict(kept) if kept else None


def found_on(machine: Machine) -> list[FoundBlank]:
    """Return what the newest photo of a machine's bed shows."""
    return [
        FoundBlank(**{**one, "outline": tuple(map(tuple, one["outline"]))})
        for one in machine.bed_seen.get("found", [])
    ]


def _machine_of(job: Job) -> Machine:
    if job.machine is None:
        raise InputError("This job's machine is not on the shelf any more.")
    return job.machine


def camera_facts(job: Job, spec: JobSpec) -> dict[str, Any]:
    """Return what the Place station shows of the machine's camera."""
    machine = job.machine
    if machine is None or spec.mount.rotary:
        return {}
    part = MachinePart.model_validate(machine.part)
    same_bed = (part.bed_width_mm, part.bed_height_mm, part.origin) == (
        spec.machine.bed_width_mm, spec.machine.bed_height_mm, spec.machine.origin,
    )  # fmt: skip
    seen = machine.bed_seen if same_bed else {}
    found = found_on(machine) if seen else []
    return {
        "machine": machine,
        "camera": camera_of(machine),
        "day": machine.camera.get("day", ""),
        "marks": len(bed_marks(part).corners),
        "photo": seen.get("photo", ""),
        "when": seen.get("when", ""),
        "found": [_found_row(at, one, spec) for at, one in enumerate(found)],
        "alike": sum(one.turned_to(spec.blank) is not None for one in found),
        "middles": [(one.x_mm, one.y_mm) for one in found],
        "simulated": not machine.link,
    }


def _found_row(at: int, one: FoundBlank, spec: JobSpec) -> dict[str, Any]:
    deep = spec.machine.bed_height_mm
    path = "M" + "L".join(f"{x:.2f} {deep - y:.2f}" for x, y in one.outline) + "Z"
    return {
        "at": at,
        "one": one,
        "alike": one.turned_to(spec.blank) is not None,
        "path": path,
    }


def lay_on(job: Job, at: int) -> bool:
    """Lay the piece on a found blank, turned as it lies; return whether it is alike.

    Raises
    ------
    InputError
        When there is no such thing on the bed.
    """
    spec, found = spec_of(job), found_on(_machine_of(job))
    if not 0 <= at < len(found):
        raise InputError("This blank is not in the newest photo.")
    change(job, _laid(spec, found[at]), "Laid on a found blank")
    return found[at].turned_to(spec.blank) is not None


def _laid(spec: JobSpec, one: FoundBlank) -> JobSpec:
    """Return the job with its blank on a found one, the picture turned with it."""
    angle = one.turned_to(spec.blank)
    if angle is None:
        angle = 0.0 if one.round else one.angle_deg
    turn = spec.place.turn_deg if one.round else _nearest(angle, spec.place.turn_deg)
    across, up = from_picture(spec)
    x, y = turned_about(one.x_mm - across, one.y_mm - up, (one.x_mm, one.y_mm), turn)
    place = {
        "x_mm": x - spec.size.width_mm / 2, "y_mm": y - spec.size.height_mm / 2,
        "turn_deg": turn, "zero": "bed",
    }  # fmt: skip
    return updated(spec, {"place": place})


def _nearest(angle: float, wanted: float) -> float:
    """Return an angle or the one upside down, whichever is nearer to what is wanted."""
    ways = [math.remainder(angle + half, 360) for half in (0, 180)]
    return min(ways, key=lambda way: abs(math.remainder(way - wanted, 360)))


def lay_in_pockets(job: Job) -> int:
    """Make a pocket of each found blank that is the job's; return how many there are.

    Raises
    ------
    InputError
        When there is none.
    """
    spec = spec_of(job)
    alike = [
        one for one in found_on(_machine_of(job)) if one.turned_to(spec.blank) is not None
    ]
    if not alike:
        raise InputError("None of what was found is this job's blank.")
    first, *others = [_laid(spec, one).place for one in alike[:MOST_POCKETS]]
    kept = spec.fixture.model_dump(mode="json") if spec.fixture else {}
    old = kept.get("pockets", [])
    pockets = []
    for i, place in enumerate([first, *others]):
        own = {
            "on": True, "x_mm": place.x_mm - first.x_mm, "y_mm": place.y_mm - first.y_mm,
            "turn_deg": math.remainder(place.turn_deg - first.turn_deg, 360),
        }  # fmt: skip
        pockets.append({**(old[i] if i < len(old) else {}), **own})
    picture = "same" if kept.get("picture") == "across" else kept.get("picture", "same")
    fixture = {**kept, "columns": len(pockets), "rows": 1, "picture": picture, "shown": 0,
               "pockets": pockets}  # fmt: skip
    changes = {"fixture": fixture, "place": first.model_dump(mode="json")}
    change(job, updated(spec, changes), "Laid on all blanks")
    return len(pockets)
