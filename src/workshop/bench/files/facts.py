"""What a file of G-code comes to on its machine, and what is to be said of it."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from threading import Lock
from typing import Any, BinaryIO

from engraving.errors import EngravingError, JobError
from engraving.jobspec import JobSpec, MachinePart
from engraving.pipeline import stage_key
from engraving.pipeline.file_path import FileLook, Placing, look_at
from engraving.place import frame_of
from workshop.jobs.exports.opening import gcode_path
from workshop.jobs.hands.lines import HandLine, before
from workshop.jobs.models import GcodeFile, Job
from workshop.jobs.pictures.engine import stage_cache
from workshop.shelf.models import Machine

_HAIR_MM = 0.005
_WEAK = 0.3
_SIDES = ("to the left", "to the front", "to the right", "to the back")
Box = tuple[float, float, float, float]
QUICK_BYTES = 8_000_000
"""Larger files are read beside: they take more than half a second."""
_MOST_READ = 16
_reading: dict[str, "Future[FileLook]"] = {}
_gate = Lock()


class StillReadingError(JobError):
    """A large file is being read just now."""

    def __init__(self) -> None:
        super().__init__("This file is large and still being read; a moment.")


@dataclass(frozen=True)
class Said:
    """Something found in a file: a stop holds it, a caution is to be looked at."""

    weight: str
    sentence: str


@dataclass(frozen=True)
class Placed:
    """A file as it lies on its machine.

    Attributes
    ----------
    look : FileLook
        As its own numbers say.
    placing : Placing
    burned, whole : tuple of float
        Left, front, right and back on the bed in mm: of what is burned, of all moves.
    """

    look: FileLook
    placing: Placing
    burned: Box
    whole: Box


def opener(file: GcodeFile) -> Callable[[], BinaryIO]:
    """Return what opens a kept file."""
    path = gcode_path(file.sha256)
    return lambda: path.open("rb")


def machine_for(file: GcodeFile) -> Machine | None:
    """Return the machine a file is to run on: its own, or else the first on the shelf."""
    return file.machine or Machine.objects.order_by("pk").first()


def part_of(machine: Machine | None) -> MachinePart:
    """Return a machine's data; without one, a plain machine's."""
    return MachinePart.model_validate(machine.part) if machine else MachinePart()


def placed(file: GcodeFile, part: MachinePart) -> Placed:
    """Return a file as it lies on a machine.

    Raises
    ------
    EngravingError
        When it cannot be read.
    """
    look = _look(file, part)
    frame = frame_of(part)
    burned, whole = (
        _on_bed(part, box)
        for box in (look.estimate.burn_bounds_mm, look.estimate.bounds_mm)
    )
    across = 0.0 if file.x_mm is None else file.x_mm - burned[0]
    up = 0.0 if file.y_mm is None else file.y_mm - burned[1]
    times = part.s_max / file.full_power if file.full_power else 1.0
    placing = Placing(across * frame.sign_x, up * frame.sign_y, times)
    return Placed(look, placing, _moved(burned, across, up), _moved(whole, across, up))


def _look(file: GcodeFile, part: MachinePart) -> FileLook:
    """Return what a file comes to; a large one is read beside, and asked for again."""
    key = stage_key("file", file.sha256, part.model_dump(mode="json"))

    def read() -> FileLook:
        return stage_cache().get(key, lambda: look_at(opener(file), part, Placing()))

    if file.size_bytes <= QUICK_BYTES:
        return read()
    with _gate:
        begun = _reading.get(key) or _beside().submit(read)
        _reading[key] = begun
        while len(_reading) > _MOST_READ:
            _reading.pop(next(iter(_reading)))
    if not begun.done():
        raise StillReadingError
    return begun.result()


@cache
def _beside() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(1, "gcode")


def _on_bed(part: MachinePart, box: Box) -> Box:
    frame = frame_of(part)
    ends = frame.to_bed(*box[:2]), frame.to_bed(*box[2:])
    xs, ys = zip(*ends, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def _moved(box: Box, across: float, up: float) -> Box:
    return box[0] + across, box[1] + up, box[2] + across, box[3] + up


def check(lies: Placed, part: MachinePart) -> list[Said]:
    """Return what is found, stops first."""
    stops, cautions = [], []
    over = _beyond(lies.whole, part)
    if over:
        stops.append(f"It reaches {over}; place it elsewhere.")
    power = lies.look.most_power * lies.placing.times
    if round(power) > part.s_max:
        stops.append(
            f"Its largest power word is S{lies.look.most_power}, more than the "
            f"S{part.s_max} this machine knows; say what full power is in the file."
        )
    elif power < _WEAK * part.s_max:
        cautions.append(
            f"It burns at {100 * power / part.s_max:.0f} % power at most "
            f"(S{lies.look.most_power} in the file, full power here is S{part.s_max}). Was "
            "it made for a machine whose full power is another number?"
        )
    if lies.look.fastest_mm_s > max(part.max_speeds):
        cautions.append(
            f"It asks for {lies.look.fastest_mm_s:.0f} mm/s; this machine reaches "
            f"{max(part.max_speeds):.0f} mm/s, and burns darker where it is slower."
        )
    cautions.append(
        "No blank, no recipe and no proof stand behind this file: nothing of how it will "
        "look was checked. Heights of the focus in it are left out."
    )
    return [Said("stop", one) for one in stops] + [Said("caution", one) for one in cautions]


def _beyond(box: Box, part: MachinePart) -> str:
    """Say by how much a box lies beyond the bed, and where; empty where it does not."""
    most = part.bed_width_mm, part.bed_height_mm
    over = (-box[0], -box[1], box[2] - most[0], box[3] - most[1])
    said = [
        f"{far:.1f} mm {side}"
        for far, side in zip(over, _SIDES, strict=True)
        if far > _HAIR_MM
    ]
    return f"{' and '.join(said)} beyond the bed" if said else ""


def hand_lines(part: MachinePart) -> list[HandLine]:
    """Return what hands do before the beam: of a file only its machine is known."""
    return before(Job(), JobSpec(machine=part))


def page_facts(file: GcodeFile) -> dict[str, Any]:
    """Return what a file's page shows."""
    machine = machine_for(file)
    part = part_of(machine)
    context: dict[str, Any] = {
        "file": file,
        "machine": machine,
        "machines": Machine.objects.all(),
        "burns": list(file.burns.select_related("machine")[:20]),
    }
    try:
        lies = placed(file, part)
    except StillReadingError as error:
        return context | {"unread": error.message, "reading": True}
    except EngravingError as error:
        return context | {"unread": error.message}
    said = check(lies, part)
    size = lies.burned[2] - lies.burned[0], lies.burned[3] - lies.burned[1]
    return context | {
        "lies": lies,
        "size": size,
        "said": said,
        "stopped": any(one.weight == "stop" for one in said),
        "hands": hand_lines(part),
        "bed": (part.bed_width_mm, part.bed_height_mm),
        "key": picture_key(file, part),
        "full_power": file.full_power or part.s_max,
    }


def picture_key(file: GcodeFile, part: MachinePart) -> str:
    """Return the key of a file's pictures where it lies."""
    where = [file.x_mm, file.y_mm, file.full_power]
    return stage_key("file picture", file.sha256, part.model_dump(mode="json"), where)[:16]
