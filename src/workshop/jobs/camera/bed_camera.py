"""The camera over a machine's bed: calibrated, looked through, pieces laid by it."""

import io
import math
from dataclasses import asdict, dataclass
from pathlib import Path

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
)
from engraving.errors import InputError
from engraving.geometry.polygons import path_data
from engraving.geometry.rotation import turned_about
from engraving.jobspec import (
    MOST_POCKETS,
    JobSpec,
    MachinePart,
)
from engraving.place import from_picture
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import change, spec_of, updated
from workshop.shelf.models import Machine
from workshop.shelf.photos import keep_image, read_photo

_LONGEST_PX = 6000
_MOST_PX_MM = 4.0
_LONGEST_LOOK_PX = 1800


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


def machine_of(job: Job) -> Machine:
    """Return the machine of a job.

    Raises
    ------
    InputError
        When it left the shelf.
    """
    if job.machine is None:
        raise InputError(
            "This job's machine is not on the shelf any more; choose one at Burn."
        )
    return job.machine


@dataclass(frozen=True)
class FoundRow:
    """A blank found on a photo; its outline as SVG path data."""

    at: int
    one: FoundBlank
    alike: bool
    path: str


@dataclass(frozen=True)
class CameraFacts:
    """The camera over a bed, and what its newest photo shows."""

    machine: Machine
    camera: BedCamera | None
    day: str
    marks: int
    photo: str
    when: str
    found: list[FoundRow]
    alike: int
    middles: list[tuple[float, float]]
    simulated: bool


def camera_facts(job: Job, spec: JobSpec) -> CameraFacts | None:
    """Return what the Place station shows of the machine's camera."""
    machine = job.machine
    if machine is None or spec.mount.rotary:
        return None
    part = MachinePart.model_validate(machine.part)
    same_bed = (part.bed_width_mm, part.bed_height_mm, part.origin) == (
        spec.machine.bed_width_mm, spec.machine.bed_height_mm, spec.machine.origin,
    )  # fmt: skip
    seen = machine.bed_seen if same_bed else {}
    found = found_on(machine) if seen else []
    return CameraFacts(
        machine=machine,
        camera=camera_of(machine),
        day=machine.camera.get("day", ""),
        marks=len(bed_marks(part).corners),
        photo=seen.get("photo", ""),
        when=seen.get("when", ""),
        found=[_found_row(at, one, spec) for at, one in enumerate(found)],
        alike=sum(one.turned_to(spec.blank) is not None for one in found),
        middles=[(one.x_mm, one.y_mm) for one in found],
        simulated=not machine.link,
    )


def _found_row(at: int, one: FoundBlank, spec: JobSpec) -> FoundRow:
    deep = spec.machine.bed_height_mm
    path = path_data([one.outline], deep_mm=deep, closed=True)
    return FoundRow(
        at=at,
        one=one,
        alike=one.turned_to(spec.blank) is not None,
        path=path,
    )


def lay_on(job: Job, at: int) -> bool:
    """Lay the piece on a found blank, turned as it lies; return whether it is alike.

    Raises
    ------
    InputError
        When there is no such thing on the bed.
    """
    spec, found = spec_of(job), found_on(machine_of(job))
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
        one for one in found_on(machine_of(job)) if one.turned_to(spec.blank) is not None
    ]
    if not alike:
        raise InputError(
            "Nothing that was found has the size of this job's blank;"
            " choose another blank, or lay it in sight."
        )
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
