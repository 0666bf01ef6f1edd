"""What the buttons of a machine's page do. Lengths are mm on the bed, as it is seen."""

import time
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from django.conf import settings

from engraving.check import stopped_by
from engraving.errors import EngravingError
from engraving.jobspec import JobSpec, MachinePart
from engraving.place import anchor_point, burned_box, frame_of, touched_off_at
from workshop.bench.machines import heights
from workshop.bench.machines.tasks import keep_heights
from workshop.bench.machines.walk import walk
from workshop.bench.models import Run
from workshop.bench.runs import tasks
from workshop.bench.runs.start import (
    CannotBurnError,
    begin_queued,
    hold_free,
    queue_run,
    start_run,
)
from workshop.bench.runs.track import row_of
from workshop.bench.where import address_of, link_to, witness_of
from workshop.controller.errors import LinkError
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import change, spec_of
from workshop.jobs.ticket.findings import full_check
from workshop.shelf.models import Machine
from workshop.shell.numbers import finite, whole

WHO = "who"
"""Of the words: who presses, where somebody signed in."""
Words = Mapping[str, str]
_SLOW_MM_S, _FAST_MM_S = 20.0, 60.0
_LARGE_MM = 5.0
_MOST_MM = 5000.0
_MOST_NUDGE_MM = 50.0
_PROBED_MM = 40.0
_ARRIVES_S, _MOMENT_S = 60.0, 0.05


def _mm(words: Words, name: str) -> float:
    value = finite(words.get(name, "0") or "0")
    if abs(value) > _MOST_MM:
        raise CannotBurnError(f"{value:g} mm is more than any bed.")
    return value


def _part(machine: Machine) -> MachinePart:
    return MachinePart.model_validate(machine.part)


def _place(machine: Machine) -> tuple[float, float]:
    """Return where the head stands on the bed."""
    known = link_to(machine, "state")
    if not known.get("place"):
        link_to(machine, "connect")
        known = link_to(machine, "state")
    if not known.get("place"):
        raise CannotBurnError("The machine does not say where its head is.")
    x, y = frame_of(_part(machine)).to_bed(*known["place"][:2])
    return x, y


def _go(machine: Machine, x_mm: float, y_mm: float, speed_mm_s: float) -> None:
    """Creep to a place of the bed, as far as the bed goes."""
    part = _part(machine)
    x = min(max(x_mm, 0.0), part.bed_width_mm)
    y = min(max(y_mm, 0.0), part.bed_height_mm)
    to = frame_of(part).to_machine(x, y)
    link_to(machine, "jog", x_mm=to[0], y_mm=to[1], speed_mm_s=speed_mm_s, to=True)


def jog(machine: Machine, words: Words) -> str:
    """Creep by one step; steps in quick succession add up."""
    part, at = _part(machine), _place(machine)
    wide, deep = part.bed_width_mm, part.bed_height_mm
    x = min(max(at[0] + _mm(words, "x"), 0.0), wide) - at[0]
    y = min(max(at[1] + _mm(words, "y"), 0.0), deep) - at[1]
    speed = _FAST_MM_S if max(abs(x), abs(y)) >= _LARGE_MM else _SLOW_MM_S
    frame = frame_of(part)
    way = frame.sign_x * x, frame.sign_y * y
    link_to(machine, "jog", x_mm=way[0], y_mm=way[1], speed_mm_s=speed)
    return ""


def creep(machine: Machine, words: Words) -> str:
    """Creep on until the button is let go, or nobody says that it is still held."""
    x, y = _mm(words, "x"), _mm(words, "y")
    part, at = _part(machine), _place(machine)
    far = max(part.bed_width_mm, part.bed_height_mm)
    _go(machine, at[0] + x * far, at[1] + y * far, _SLOW_MM_S)
    link_to(machine, "keep")
    return ""


def go_to(machine: Machine, words: Words) -> str:
    """Go to a point of the bed."""
    _go(machine, _mm(words, "x"), _mm(words, "y"), _FAST_MM_S)
    return ""


def faint(machine: Machine, words: Words) -> str:
    """Switch the faint beam on, which goes out by itself, or off."""
    percent = finite(words.get("percent", "0") or "0")
    link_to(machine, "faint", percent=percent)
    return "" if percent else "The beam is off."


def lift(machine: Machine, words: Words) -> str:
    """Move the lens up or down, where the program can."""
    if not _part(machine).z_axis:
        raise CannotBurnError("This machine's lens is moved by hand.")
    link_to(machine, "lift", z_mm=_mm(words, "z"))
    return ""


def _at_rest(machine: Machine) -> None:
    """Wait until the head is where it was sent, as a report says that came after."""
    until, told = time.monotonic() + _ARRIVES_S, link_to(machine, "state").get("reports", 0)
    while not _rests(link_to(machine, "state"), told + 2):
        if time.monotonic() > until:
            raise CannotBurnError("The head does not come to rest there.")
        time.sleep(_MOMENT_S)


def _rests(known: Mapping[str, Any], reports: int) -> bool:
    return known.get("state") == "idle" and known.get("reports", 0) >= reports


def _as_itself(machine: Machine) -> MachinePart:
    """Return a machine that touches; its stand-in holds its tool from now on."""
    part = _part(machine)
    if not part.touches:
        raise CannotBurnError("This machine has a beam: there is nothing to touch off.")
    witness = witness_of(address_of(machine))
    if witness is not None:
        program = link_to(machine, "state").get("program") or {}
        if tool := program.get("asks"):
            witness.take_up(tool)
        else:
            witness.hold_tool(part)
    return part


def lower(machine: Machine, words: Words) -> str:
    """Move a tool up or down by a step."""
    _as_itself(machine)
    link_to(machine, "lift", z_mm=_mm(words, "z"))
    return ""


def touch(machine: Machine, words: Words) -> str:  # noqa: ARG001 (all deeds are alike)
    """Let the surface be where the tool is."""
    _as_itself(machine)
    _at_rest(machine)
    link_to(machine, "touch")
    return "The surface is here: the height is zero."


def probe(machine: Machine, words: Words) -> str:
    """Go down until the tool touches."""
    _as_itself(machine)
    _at_rest(machine)
    link_to(machine, "probe", deepest_mm=_mm(words, "deepest") or _PROBED_MM)
    return "It touched; the height is zero there."


def probe_bed(machine: Machine, words: Words) -> str:
    """Go down at places of a grid over the job; it follows the heights found there."""
    part, job = _as_itself(machine), _job(machine, words)
    if part.kind != "vtool":
        raise CannotBurnError("A point under a spring follows the bed by itself.")
    across, back = (whole(words.get(one, "")) or 0 for one in ("across", "back"))
    grid = heights.grid_over(spec_of(job), across, back)
    hold_free(job)  # before anything moves
    link_to(machine, "lift", z_mm=heights.LIFT_MM)
    _at_rest(machine)
    _go(machine, grid.x_mm, grid.y_mm, _FAST_MM_S)
    _at_rest(machine)
    heights.begin(job, part, grid)
    keep_heights(job, grid)
    return ""


def over_the_middle(machine: Machine, words: Words) -> str:
    """Go over the middle of the job's piece, to touch the tool off there."""
    _as_itself(machine)
    spec = spec_of(_job(machine, words))
    _go(machine, *touched_off_at(spec), _FAST_MM_S)
    return ""


def trim(machine: Machine, words: Words) -> str:
    """Trim speed or power while something runs."""
    by = words.get("by", "0")
    step = (whole(by.lstrip("+-")) or 0) * (-1 if by.startswith("-") else 1)
    link_to(machine, "trim", what=words.get("what", "speed"), by=step)
    return ""


def _job(machine: Machine, words: Words) -> Job:
    number = whole(words.get("job", ""))
    job = Job.objects.with_all().filter(number=number or 0).first()
    if job is None:
        raise CannotBurnError("Choose a job first.")
    if job.machine_id != machine.pk:
        raise CannotBurnError("This job is made for another machine.")
    return job


def zero_here(machine: Machine, words: Words) -> str:
    """Let the job's zero be where the head stands; the piece lies there on the bed then."""
    job = _job(machine, words)
    spec, (x, y) = spec_of(job), _place(machine)
    at = anchor_point(burned_box(spec), spec.place.anchor)
    _move(job, spec, x - at[0], 0.0 if spec.mount.rotary else y - at[1])
    return f"The job's zero is at {x:.1f}, {y:.1f} mm now."


def nudge(machine: Machine, words: Words) -> str:
    """Move the job a little; a walk round it goes on round where it lies then."""
    job = _job(machine, words)
    x, y = _mm(words, "x"), _mm(words, "y")
    if max(abs(x), abs(y)) > _MOST_NUDGE_MM:
        raise CannotBurnError("A nudge is at most 50 mm.")
    spec = spec_of(job)
    _move(job, spec, x, 0.0 if spec.mount.rotary else y)
    known = link_to(machine, "state").get("program")
    if known and known["kind"] == "walk" and known["state"] == "running":
        _walk(job, words)
    return ""


def _move(job: Job, spec: JobSpec, x: float, y: float) -> None:
    place = spec.place
    moved = {"x_mm": round(place.x_mm + x, 3), "y_mm": round(place.y_mm + y, 3)}
    checked = type(place).model_validate(place.model_dump() | moved)
    change(job, spec.model_copy(update={"place": checked}), "Place on the bed", "place")


def walk_round(machine: Machine, words: Words) -> str:
    """Walk round the job, round and round, until stopped."""
    _walk(_job(machine, words), words)
    return ""


def _walk(job: Job, words: Words) -> None:
    percent = finite(words.get("percent", "0") or "0")
    walk(job, power=percent, along=words.get("along", "border"), again=True)


def dry_run(machine: Machine, words: Words) -> str:
    """Run all of a job with the beam off, at its own speed or another."""
    job = _job(machine, words)
    speed = finite(words.get("speed", "0") or "0")
    if not 0 <= speed <= 2000:
        raise CannotBurnError("A dry run runs at 1 to 2000 mm/s; 0 is the job's own speed.")
    spec = spec_of(job)
    if why := stopped_by(full_check(job)[0]):
        raise CannotBurnError(why)
    folder = Path(settings.MEDIA_ROOT) / "walks"
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{job.number}-dry.gcode"
    with path.open("wb") as stream:
        pipeline().write_gcode(spec, stream, lifted=True)
    link_to(
        machine, "start", kind="dry", name=f"dry {job.number}", path=str(path), dry=True,
        feed_mm_min=speed * 60,
    )  # fmt: skip
    return ""


def burn(machine: Machine, words: Words) -> str:
    """Burn a job."""
    run = start_run(_job(machine, words), operator=words.get(WHO, ""))
    tasks.hand_over(run)
    return ""


def queue(machine: Machine, words: Words) -> str:
    """Let a job come next."""
    queue_run(_job(machine, words))
    return ""


def _queued(machine: Machine, words: Words) -> Run:
    run = Run.objects.queued_at(address_of(machine)).filter(
        pk=whole(words.get("run", "")) or 0
    )
    found = run.select_related("job").first()
    if found is None:
        raise CannotBurnError("It is not in the queue any more.")
    return found


def take_off(machine: Machine, words: Words) -> str:
    """Take a job off the queue."""
    _queued(machine, words).delete()
    return ""


def burn_next(machine: Machine, words: Words) -> str:
    """Burn what comes next: its blank is clamped, its list ticked."""
    run = _queued(machine, words)
    begin_queued(run, words.get(WHO, ""))
    tasks.hand_over(run)
    return ""


def _broken_off(machine: Machine, words: Words) -> tuple[Run, int]:
    """Return the burn that is gone on with, and from which row."""
    run = Run.objects.filter(pk=whole(words.get("run", "")) or 0).first()
    over = run is not None and run.state in ("stopped", "failed")
    if run is None or not over or run.address != address_of(machine):
        raise CannotBurnError("There is no burn to go on with.")
    if run.job.spec_data != run.spec:
        raise CannotBurnError(
            "The job was changed since it was broken off; undo that, or burn it anew."
        )
    row = whole(words.get("row", "")) or 0
    if not 0 <= row < run.first_row + max(run.rows, 1):
        raise CannotBurnError(f"The job has {run.first_row + run.rows} rows.")
    return run, row


def show_row(machine: Machine, words: Words) -> str:
    """Go where a row begins, and show it with the faint beam."""
    found = row_of(*_broken_off(machine, words))
    if found is None:
        raise CannotBurnError("The job has not so many rows.")
    _go(machine, found.x, found.y, _FAST_MM_S)
    _at_rest(machine)
    percent = finite(words.get("percent", "0") or "0")
    link_to(machine, "faint", percent=percent)
    return f"Row {found.row} begins at {found.x:.1f}, {found.y:.1f} mm."


def continue_burn(machine: Machine, words: Words) -> str:
    """Go on with a burn that was broken off, some rows before where it ended."""
    run, row = _broken_off(machine, words)
    follow_on = start_run(run.job, after=row, operator=words.get(WHO, ""))
    tasks.hand_over(follow_on)
    return ""


def _plain(do: str) -> Callable[[Machine, Words], str]:
    """Return what asks the link for something that needs no more words."""

    def deed(machine: Machine, _words: Words) -> str:
        link_to(machine, do)
        return ""

    return deed


DEEDS: dict[str, Callable[[Machine, Words], str]] = {
    "connect": _plain("connect"),
    "disconnect": _plain("disconnect"),
    "home": _plain("home"),
    "unlock": _plain("unlock"),
    "hold": _plain("hold"),
    "go-on": _plain("go_on"),
    "jog": jog,
    "creep": creep,
    "keep": _plain("keep"),
    "end-jog": _plain("end_jog"),
    "go-to": go_to,
    "faint": faint,
    "trim": trim,
    "zero": zero_here,
    "nudge": nudge,
    "walk": walk_round,
    "dry": dry_run,
    "burn": burn,
    "queue": queue,
    "take-off": take_off,
    "next": burn_next,
    "show-row": show_row,
    "continue": continue_burn,
    "lift": lift,
    "lower": lower,
    "touch": touch,
    "probe": probe,
    "probe-bed": probe_bed,
    "middle": over_the_middle,
}


def do(machine: Machine, deed: str, words: Words) -> str:
    """Do what a button says; return what is to be said of it.

    Raises
    ------
    CannotBurnError
        When it cannot be done; the message says why.
    KeyError
        When there is no such button.
    """
    act = DEEDS[deed]
    try:
        return act(machine, words)
    except (LinkError, EngravingError) as error:
        raise CannotBurnError(str(error)) from None
    except ValueError:
        raise CannotBurnError("Type a number.") from None
