"""Burn a job: write it, send it, follow it, and look at what was burned."""

import io
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from django.conf import settings
from django.db import transaction
from django.utils import timezone
from numpy.typing import NDArray
from PIL import Image

from engraving.cards import card_patches
from engraving.dots import BitGrid
from engraving.errors import EngravingError
from engraving.geometry.shrinking import shrunk
from engraving.jobspec import JobSpec, TonePart
from engraving.place import (
    frame_of,
    job_zero,
    piece_box,
    pieces,
    rotary_surface,
    shown_piece,
)
from engraving.recipe import recipe_of
from workshop.bench import simulator_client
from workshop.bench.link import Link, LinkError
from workshop.bench.models import Run
from workshop.jobs.exports.gate import held
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import spec_of
from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shelf.recipes.changes import add_version, create_recipe

_EVERY = 0.4
_MAP_PX = 1400
_LOGGED = 200
_PROVEN = 4
"""Rated so many of five, a recipe counts as proven."""
_WRONG_POWER = 0.1
"""Where dots differ in power, one that is off by this share of a full one is wrong."""


class CannotBurnError(Exception):
    """The job is held; the message says why."""


def start_run(job: Job) -> Run:
    """Make a burn of a job's present state, ready for the worker.

    Raises
    ------
    CannotBurnError
        When a stop or an unsigned caution holds the job, it cannot be computed,
        or the bench is busy.
    """
    if why := held_back(job):
        raise CannotBurnError(why)
    planned_s = pipeline().estimate(spec_of(job)).seconds
    with transaction.atomic():
        hold_free_bench()
        return Run.objects.create(job=job, spec=job.spec_data, planned_s=planned_s)


def held_back(job: Job) -> str:
    """Return what keeps a job from being burned as it stands, empty where nothing does."""
    try:
        return held(job)
    except EngravingError as error:
        return error.message


def hold_free_bench() -> None:
    """Make sure that nothing is being burned.

    Raises
    ------
    CannotBurnError
        When something is.
    """
    if Run.objects.active().exists():
        raise CannotBurnError("The bench is busy with another burn.")


def go_on(run: Run) -> None:
    """Let a burn that waits for its operator go on."""
    Run.objects.filter(pk=run.pk, waits=True).update(go_on=True)


def stop_run(run: Run) -> None:
    """Ask the worker to stop a burn."""
    Run.objects.filter(pk=run.pk).update(stop_wanted=True)


def burn(run: Run) -> None:
    """Write a burn's G-code, send it, and compare what was burned with the plan."""
    try:
        _burn(run)
    except LinkError as error:
        _end(run, "failed", told(error, JobSpec.model_validate(run.spec)))
    except EngravingError as error:
        _end(run, "failed", str(error))
    except OSError as error:
        _end(run, "failed", f"The stand-in controller is not there ({error.strerror}).")


def told(error: LinkError, spec: JobSpec) -> str:
    """Return what went wrong on the link in the operator's words."""
    if error.refused and spec.mount.rotary and spec.mount.output == "degrees":
        return f"The machine has no rotary axis set up. {error}"
    return str(error)


def _burn(run: Run) -> None:
    spec = JobSpec.model_validate(run.spec)
    path = _folder(run) / "job.gcode"
    with path.open("wb") as stream:
        pipeline().write_gcode(spec, stream)
    simulated = not _link_of(run)
    if simulated:
        machine = spec.machine
        turned = rotary_surface(spec)
        kind = machine.accelerations, machine.rapid_mm_s, machine.s_max
        simulator_client.become(*kind, turned, job_zero(spec), machine.junction_mm)
    with path.open("rb") as lines:
        run.note(state="running", lines=sum(1 for _ in lines))
    if not _send(run, path):
        _end(run, "stopped", "")
        return
    if simulated:
        _compare(run, spec)
    _end(run, "done", "")
    Job.objects.filter(pk=run.job_id).update(burned_at=timezone.now())


def _link_of(run: Run) -> str:
    """Return where the job's own machine is reached, empty for the stand-in."""
    return run.job.machine.link if run.job.machine else ""


def give_up_left_over() -> None:
    """Close burns that a worker left behind when it ended."""
    for run in Run.objects.active():
        _end(run, "failed", "The program restarted; this burn was broken off.")


def _send(run: Run, path: Path) -> bool:
    """Stream a file and wait for the machine to rest; False when stopped."""
    url = _link_of(run) or f"socket://127.0.0.1:{settings.CONTROLLER_PORT}"
    baud = run.job.machine.baud if run.job.machine else 115200
    with Link(url, baud=baud) as link:
        begun = float(link.ask().get("clock", 0))
        with path.open("rb") as lines:
            for answered in _with_breaks(link.send(iter(lines))):
                if not _follow(run, link, begun, answered):
                    return False
        while link.ask()["word"] != "idle":
            if not _follow(run, link, begun, link.answered):
                return False
        return _follow(run, link, begun, link.answered)


def _with_breaks(answered: Iterator[int]) -> Iterator[int]:
    """Pass on a count now and then, and the last."""
    last, count = 0.0, 0
    for count in answered:
        if time.monotonic() - last > _EVERY:
            last = time.monotonic()
            yield count
    yield count


def _follow(run: Run, link: Link, begun: float, answered: int) -> bool:
    """Note the progress; stop the machine where that is wanted."""
    status = link.ask()
    stop_wanted, go_on = Run.objects.values_list("stop_wanted", "go_on").get(pk=run.pk)
    waits = status["word"] == "held"
    if waits and go_on:
        link.resume()
        waits = False
        run.note(go_on=False)
    clock = float(status.get("clock", begun)) - begun
    run.note(clock_s=clock, lines_sent=answered, waits=waits)
    if stop_wanted:
        link.reset()
    return not stop_wanted


def _end(run: Run, state: str, error: str) -> None:
    run.note(state=state, error=error[:300], ended=timezone.now())


def _compare(run: Run, spec: JobSpec) -> None:
    """Hold the burn map against the planned dots and keep its picture."""
    if spec.card is not None:
        planned, wrong = _compare_card(spec)
        energy, one_dot, _ = _burned_piece(spec)
    else:
        counts = [_compare_piece(piece) for piece in pieces(spec)]
        planned, wrong = sum(one for one, _ in counts), sum(one for _, one in counts)
        energy, one_dot, _ = _burned_piece(shown_piece(spec))
    run.note(dots_planned=planned, dots_wrong=wrong)
    level = np.clip(energy / one_dot, 0, 1)
    if spec.mount.rotary:
        level = np.rot90(level, -1 if spec.mount.top == "left" else 1)
    map_path(run).write_bytes(_averaged_png(level, spec))


def _burned_piece(spec: JobSpec) -> tuple[NDArray[np.float32], float, BitGrid]:
    """Return a piece's burned energy on its grid, that of one dot, and its plan."""
    spec, bits = pipeline().on_machine(spec)
    share = spec.burn.power / 100
    times = spec.burn.passes * (2 if spec.burn.cross else 1)
    one_dot = share * spec.size.along_mm / spec.burn.speed_mm_s * times
    if spec.burn.rows == "y":
        one_dot *= spec.size.pitch_mm / spec.size.along_mm
    return _seen_by_operator(spec, bits.rows, bits.cols), one_dot, bits


def _compare_piece(spec: JobSpec) -> tuple[int, int]:
    """Return how many dots a piece has, and how many differ from the plan."""
    if not spec.raster:
        return 0, 0
    energy, one_dot, bits = _burned_piece(spec)
    if bits.power is None:
        wrong = (energy > one_dot / 2) != bits.unpack().astype(bool)
    else:
        planned = bits.strengths(0, 0, bits.cols, bits.rows)
        wrong = np.abs(energy / one_dot - planned) > _WRONG_POWER
    return bits.count, int(np.count_nonzero(wrong & _beside_outlines(spec, bits)))


def _beside_outlines(spec: JobSpec, bits: BitGrid) -> NDArray[np.bool_]:
    """Return which dots no outline runs over; those it does run over cannot be told."""
    run_over = np.zeros((bits.rows, bits.cols), np.uint8)
    along, pitch = spec.size.cell_mm
    for outline in spec.outlines:
        for path in pipeline().followed(spec, outline).paths if outline.on else []:
            # Both as if the piece lay straight.
            x = (path[:, 0] - spec.place.x_mm) / along
            y = bits.rows - (path[:, 1] - spec.place.y_mm) / pitch
            points = np.rint(np.stack([x, y], axis=1) - 0.5).astype(np.int32)
            cv2.polylines(run_over, [points], False, 1, 3)
    return run_over == 0


def _compare_card(spec: JobSpec) -> tuple[int, int]:
    """Return how many dots a card's patches have, and how many differ from the plan."""
    planned = wrong = 0
    for field in card_patches(spec):
        path, bits, patch = field.path, field.bits, field.spec
        left = min(path.left_mm, path.left_mm + bits.cols * path.step_x_mm)
        low = path.first_row_mm + (bits.rows - 1) * path.step_y_mm
        front = min(path.first_row_mm, low) - abs(path.step_y_mm) / 2
        cell = patch.size.cell_mm
        energy = simulator_client.energy_map(left, front, cell, (bits.rows, bits.cols))
        ahead, down = (1 if path.step_x_mm > 0 else -1), (1 if path.step_y_mm < 0 else -1)
        burn = patch.burn
        one_dot = burn.power / 100 * cell[0] / burn.speed_mm_s * burn.passes
        burned = energy[::down, ::ahead] > one_dot / 2
        wrong += int(np.count_nonzero(burned != bits.unpack().astype(bool)))
        planned += bits.count
    return planned, wrong


def _averaged_png(level: NDArray[np.float32], spec: JobSpec) -> bytes:
    """Return burned shares (rows, cols) as a gray PNG no longer than `_MAP_PX`."""
    small = shrunk(level, _MAP_PX)
    light = small if spec.polarity == "lightens" else 1 - small
    stream = io.BytesIO()
    Image.fromarray(np.rint(255 * light).astype(np.uint8)).save(stream, "PNG")
    return stream.getvalue()


def _seen_by_operator(spec: JobSpec, rows: int, cols: int) -> NDArray[np.float32]:
    """Return the energy on the job's own grid, row 0 away from the operator."""
    frame, cell = frame_of(spec.machine), spec.size.cell_mm
    wide, deep = cols * cell[0], rows * cell[1]
    x0, y0 = frame.to_machine(spec.place.x_mm, spec.place.y_mm)
    x1, y1 = frame.to_machine(spec.place.x_mm + wide, spec.place.y_mm + deep)
    degrees = spec.place.turn_deg * frame.sign_x * frame.sign_y
    turn = degrees, *frame.to_machine(*piece_box(spec.size, spec.place).middle)
    energy = simulator_client.energy_map(min(x0, x1), min(y0, y1), cell, (rows, cols), turn)
    return energy[:: frame.sign_y, :: frame.sign_x]


def _folder(run: Run) -> Path:
    folder = Path(settings.MEDIA_ROOT) / "runs" / str(run.pk)
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def map_path(run: Run) -> Path:
    """Return where a burn's map lies."""
    return _folder(run) / "map.png"


def plan_picture(run: Run) -> bytes:
    """Return the planned dots of a burn, as large as its map."""
    spec = shown_piece(JobSpec.model_validate(run.spec))
    bits = pipeline().burned(spec)
    return _averaged_png(bits.strengths(0, 0, bits.cols, bits.rows), spec)


def photograph(job: Job) -> bytes:
    """Return a picture of what the stand-in burned of a job, as its camera takes it.

    The stand-in is told what the material looks like; how it answers the beam
    is its own secret.

    Raises
    ------
    CannotBurnError
        When nothing was burned yet, or the stand-in is not there.
    """
    run = Run.objects.filter(job=job, state="done").order_by("-pk").first()
    newest = Run.objects.filter(state="done").order_by("-pk").first()
    if run is None:
        raise CannotBurnError(
            "Nothing was burned of this job yet; burn it on the stand-in."
        )
    if newest is None or newest.pk != run.pk or _link_of(run):
        raise CannotBurnError(
            "Another piece lies on the stand-in's bed by now; burn this one again."
        )
    spec = JobSpec.model_validate(run.spec)
    frame, machine = frame_of(spec.machine), spec.machine
    corner = frame.to_machine(spec.place.x_mm, spec.place.y_mm)
    question = {
        "left": frame.sign_x * corner[0],
        "front": frame.sign_y * corner[1],
        "width": spec.size.width_mm,
        "height": spec.size.height_mm,
        "runs": [frame.sign_x, frame.sign_y],
        "ground": spec.substrate.ground,
        "mark": spec.substrate.mark,
        "power_w": machine.rated_power_w,
        "spot_mm": machine.spot_mm,
        "material": spec.substrate.name,
    }
    try:
        return simulator_client.photo(question)
    except OSError as error:
        raise CannotBurnError(f"The stand-in camera does not answer ({error}).") from None


def log() -> list[dict[str, Any]]:
    """Return the burns of the log, newest first, each with a name for its recipe."""
    runs = Run.objects.select_related("job__recipe").order_by("-pk")[:_LOGGED]
    rows = []
    for run in runs:
        spec = JobSpec.model_validate(run.spec)
        name = spec.burn.recipe or f"{spec.substrate.name}, job {run.job.number:04d}"
        rows.append({"run": run, "spec": spec, "name": name})
    return rows


def kept_as(job: Job) -> dict[str, Any]:
    """Return whether a job burns a card, and the name its recipe would have."""
    spec = spec_of(job)
    name = spec.burn.recipe or f"{spec.substrate.name}, job {job.number:04d}"
    return {"is_card": spec.card is not None, "recipe_name": name}


def keep_as_recipe(run: Run, name: str, rating: int) -> Recipe:
    """Put what a burn was made with on the shelf: "this worked".

    The recipe of that name, machine and substrate gets a new version; without
    one a recipe is made. The rating is kept with the burn too.

    Raises
    ------
    CannotBurnError
        When its machine or substrate is not on the shelf any more.
    """
    spec = JobSpec.model_validate(run.spec)
    machine = Machine.objects.filter(name=spec.machine.name).first()
    substrate = Substrate.objects.filter(name=spec.substrate.name).first()
    if machine is None or substrate is None:
        raise CannotBurnError("Its machine or substrate is not on the shelf any more.")
    Run.objects.filter(pk=run.pk).update(rating=rating)
    note = f"Burn of job {run.job.number:04d}, {timezone.localtime(run.created):%Y-%m-%d}"
    confidence = "proven" if rating >= _PROVEN else "tried"
    tone = None if spec.tone == TonePart() else spec.tone.model_dump()
    part = recipe_of(
        spec,
        origin="burn",
        origin_note=note,
        rating=rating,
        confidence=confidence,
        tone=tone,
    )
    name = name or note
    known = Recipe.objects.filter(machine=machine, substrate=substrate, name=name).first()
    if known is None:
        return create_recipe(machine, substrate, name, part, "", note)
    add_version(known, part, note)
    return known
