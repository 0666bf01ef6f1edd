"""Burn a job: write it, send it, follow it, and look at what was burned."""

import io
import time
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
from django.conf import settings
from django.utils import timezone
from numpy.typing import NDArray
from PIL import Image

from engraving.check import Severity
from engraving.errors import EngravingError
from engraving.place import frame_of
from engraving.spec import JobSpec
from workshop.bench import witness
from workshop.bench.link import Link, LinkError
from workshop.bench.models import Run
from workshop.jobs.models import Job
from workshop.jobs.services.engine import pipeline
from workshop.jobs.services.readings import full_check
from workshop.jobs.services.tickets import spec_of

_EVERY = 0.4
_MAP_PX = 1400
_WRONG_POWER = 0.1
"""Where dots differ in power, one that is off by this share of a full one is wrong."""


class CannotBurnError(Exception):
    """The job is held; the message says why."""


def start_run(job: Job) -> Run:
    """Make a burn of a job's present state, ready for the worker.

    Raises
    ------
    CannotBurnError
        When a stop holds the job, or the bench is busy.
    """
    spec = spec_of(job)
    stops = [f for f in full_check(spec)[0] if f.severity is Severity.STOP]
    if stops:
        raise CannotBurnError(f"A stop holds this job: {stops[0].sentence}")
    if Run.objects.active().exists():
        raise CannotBurnError("The bench is busy with another burn.")
    return Run.objects.create(
        job=job, spec=job.spec_data, planned_s=pipeline().estimate(spec).seconds
    )


def stop_run(run: Run) -> None:
    """Ask the worker to stop a burn."""
    Run.objects.filter(pk=run.pk).update(stop_wanted=True)


def burn(run: Run) -> None:
    """Write a burn's G-code, send it, and compare what was burned with the plan."""
    try:
        _burn(run)
    except (LinkError, EngravingError) as error:
        _end(run, "failed", str(error))
    except OSError as error:
        _end(run, "failed", f"The stand-in controller is not there ({error.strerror}).")


def _burn(run: Run) -> None:
    spec = JobSpec.model_validate(run.spec)
    path = _folder(run) / "job.gcode"
    with path.open("wb") as stream:
        pipeline().write_gcode(spec, stream)
    simulated = not _link_of(run)
    if simulated:
        machine = spec.machine
        witness.become(machine.acceleration_mm_s2, machine.rapid_mm_s, machine.s_max)
    run.state = "running"
    with path.open("rb") as lines:
        run.lines = sum(1 for _ in lines)
    run.save()
    if not _send(run, path):
        _end(run, "stopped", "")
        return
    if simulated:
        _compare(run, spec)
    _end(run, "done", "")
    run.job.burned_at = timezone.now()
    run.job.save(update_fields=["burned_at"])


def _link_of(run: Run) -> str:
    """Return where the job's own machine is reached, empty for the stand-in."""
    return run.job.machine.link if run.job.machine else ""


def give_up_left_over() -> None:
    """Close burns that a worker left behind when it ended."""
    for run in Run.objects.active():
        _end(run, "failed", "The worker was started anew while this burn was under way.")


def _send(run: Run, path: Path) -> bool:
    """Stream a file and wait for the machine to rest; False when stopped."""
    with Link(_link_of(run) or f"socket://127.0.0.1:{settings.CONTROLLER_PORT}") as link:
        begun = float(link.ask().get("clock", 0))
        with path.open("rb") as lines:
            for answered in _with_breaks(link.send(iter(lines))):
                run.lines_sent = answered
                if not _follow(run, link, begun):
                    return False
        while link.ask()["word"] != "idle":
            if not _follow(run, link, begun):
                return False
        return _follow(run, link, begun)


def _with_breaks(answered: Iterator[int]) -> Iterator[int]:
    """Pass on a count now and then, and the last."""
    last, count = 0.0, 0
    for count in answered:
        if time.monotonic() - last > _EVERY:
            last = time.monotonic()
            yield count
    yield count


def _follow(run: Run, link: Link, begun: float) -> bool:
    """Note the progress; stop the machine where that is wanted."""
    status = link.ask()
    run.clock_s = float(status.get("clock", begun)) - begun
    run.stop_wanted = Run.objects.values_list("stop_wanted", flat=True).get(pk=run.pk)
    run.save(update_fields=["clock_s", "lines_sent"])
    if run.stop_wanted:
        link.reset()
    return not run.stop_wanted


def _end(run: Run, state: str, error: str) -> None:
    run.state, run.error, run.ended = state, error[:300], timezone.now()
    run.save()


def _compare(run: Run, spec: JobSpec) -> None:
    """Hold the burn map against the planned dots and keep its picture."""
    bits = pipeline().burned(spec)
    energy = _seen_by_operator(spec, bits.rows, bits.cols)
    share = spec.burn.power / 100
    one_dot = share * spec.size.along_mm / spec.burn.speed_mm_s * spec.burn.passes
    run.dots_planned = bits.count
    if bits.power is None:
        wrong = (energy > one_dot / 2) != bits.unpack().astype(bool)
    else:
        planned = bits.strengths(0, 0, bits.cols, bits.rows)
        wrong = np.abs(energy / one_dot - planned) > _WRONG_POWER
    run.dots_wrong = int(np.count_nonzero(wrong))
    level = np.clip(energy / one_dot, 0, 1)
    map_path(run).write_bytes(_averaged_png(level, spec))


def _averaged_png(level: NDArray[np.float32], spec: JobSpec) -> bytes:
    """Return burned shares (rows, cols) as a gray PNG no longer than `_MAP_PX`."""
    rows, cols = level.shape
    scale = min(_MAP_PX / max(rows, cols), 1.0)
    size = max(1, round(cols * scale)), max(1, round(rows * scale))
    small = np.asarray(cv2.resize(level, size, interpolation=cv2.INTER_AREA))
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
    energy = witness.energy_map(min(x0, x1), min(y0, y1), cell, rows, cols)
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
    spec = JobSpec.model_validate(run.spec)
    bits = pipeline().burned(spec)
    return _averaged_png(bits.strengths(0, 0, bits.cols, bits.rows), spec)
