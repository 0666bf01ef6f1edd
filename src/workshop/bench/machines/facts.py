"""What a machine's page is made of when it is opened."""

import json
from dataclasses import dataclass, fields
from typing import Any

from engraving.jobspec import JobSpec, MachinePart
from engraving.place import Box, burned_box, frame_of, pieces
from engraving.units import MM_PER_INCH
from workshop.bench.models import Run
from workshop.bench.where import address_of, witness_of
from workshop.jobs.hands.ticks import Done, hand_list
from workshop.jobs.models import Job
from workshop.jobs.pictures.bed_geometry import DrawnBlank, drawn_blank, svg_turn
from workshop.jobs.pictures.windows import view_key
from workshop.jobs.revisions.writer import shown_spec, spec_of
from workshop.jobs.stations.place.border import WAYS
from workshop.shelf.models import Machine
from workshop.shell.services import shown_length

_MOST_JOBS = 40
_OVERLAP_ROWS = 1
"""Burned once more, lest a gap is left where the beam went out."""


@dataclass(frozen=True)
class Point:
    """A point of the bed that the head can be sent to."""

    name: str
    x: float
    y: float


@dataclass(frozen=True)
class Probed:
    """A height of the bed that a job follows: where it is drawn, and what it says."""

    x: float
    top: float
    says: str


@dataclass(frozen=True)
class JobFacts:
    """A job as it lies on the machine."""

    job: Job
    spec: JobSpec
    picture: str
    hands: list[Done]
    box: Box

    @property
    def flat(self) -> bool:
        """Whether one picture of it can be laid on the bed as it is."""
        return not self.spec.mount.rotary and self.spec.fixture is None


@dataclass(frozen=True)
class Standing:
    """A machine in the list of all; `busy_for` is who has the stand-in it shares."""

    machine: Machine
    run: Run | None
    simulated: bool
    busy_for: str
    line: list[Job]


@dataclass(frozen=True)
class Page:
    """What a machine's page shows before anything is told live."""

    machine: Machine
    part: MachinePart
    simulated: bool
    jobs: list[Job]
    chosen: JobFacts | None
    elsewhere: Job | None
    missing: int | None
    blanks: list[tuple[DrawnBlank, str]]
    turn: str
    ways: dict[str, str]
    lifts: list[tuple[float, str]]
    lowers: list[tuple[float, str]]
    corners: list[Point]
    points: list[Point]
    bed: str
    queue: list[Run]
    broken_off: Run | None
    again_from: int
    steps: list[tuple[float, str]]
    nudges: list[tuple[float, float, str]]
    view: str
    flip: str
    mirror_shift: float
    top: float
    heights: list[Probed]
    trimmed: list[tuple[str, str]]


def page_facts(machine: Machine, number: int | None, *, inches: bool) -> dict[str, Any]:
    """Return what a machine's page shows, with the job of a number or its newest.

    A number that is asked for is never answered with another job: who comes from a
    ticket would burn what they did not mean.
    """
    part = MachinePart.model_validate(machine.part)
    asked = Job.objects.with_all().filter(number=number).first() if number else None
    here = asked if asked is not None and asked.machine_id == machine.pk else None
    jobs = jobs_of(machine, here)
    job = here if number else next(iter(jobs), None)
    chosen = job_facts(job) if job is not None else None
    broken_off = _broken_off(job) if job is not None else None
    page = Page(
        machine=machine,
        part=part,
        simulated=witness_of(address_of(machine)) is not None,
        jobs=jobs,
        chosen=chosen,
        elsewhere=None if here else asked,
        missing=None if asked else number,
        blanks=_blanks(chosen.spec) if chosen else [],
        ways=WAYS if chosen and not chosen.spec.mount.rotary else {},
        lifts=_LIFTS if part.z_axis else [],
        lowers=_LOWERS if part.touches else [],
        turn=svg_turn(chosen.spec) if chosen else "",
        corners=nine_points(part),
        points=[Point(name, x, y) for name, x, y in part.points],
        bed=_bed_facts(part),
        queue=list(Run.objects.queued_at(address_of(machine)).select_related("job")),
        broken_off=broken_off,
        again_from=_again_from(broken_off) if broken_off else 0,
        steps=_steps(inches=inches),
        nudges=_NUDGES,
        view=_view(part),
        flip=_flip(part),
        mirror_shift=2 * chosen.box.left + chosen.box.width if chosen else 0.0,
        top=part.bed_height_mm - chosen.box.back if chosen else 0.0,
        heights=_heights(chosen.spec) if chosen else [],
        trimmed=_TRIMMED[:1] if part.touches else _TRIMMED,
    )
    return {one.name: getattr(page, one.name) for one in fields(page)}


def _heights(spec: JobSpec) -> list[Probed]:
    level = spec.marking.carving.level
    if level is None or spec.machine.kind != "vtool":
        return []
    return [
        Probed(
            level.x_mm + column * level.step_x_mm,
            spec.machine.bed_height_mm - level.y_mm - row * level.step_y_mm,
            f"{shown_length(mm):.3g}",
        )
        for row, line in enumerate(level.heights_mm)
        for column, mm in enumerate(line)
    ]


def _broken_off(job: Job) -> Run | None:
    """Return the newest burn of a job if it can be gone on with."""
    last = Run.objects.latest_of(job)
    usable = last is not None and last.state in ("stopped", "failed") and last.rows > 0
    return last if usable else None


def standings() -> list[Standing]:
    """Return all machines and what burns on each."""
    active = {
        run.address: run for run in Run.objects.active().select_related("job", "machine")
    }
    return [_standing(one, active.get(address_of(one))) for one in Machine.objects.all()]


def _standing(machine: Machine, run: Run | None) -> Standing:
    simulated = witness_of(address_of(machine)) is not None
    line = list(Job.objects.in_line_at(machine))
    if run is None or run.machine_id == machine.pk:
        return Standing(machine, run, simulated, "", line)
    other = str(run.machine or "another machine")
    return Standing(machine, None, simulated, other, line)


def nine_points(part: MachinePart) -> list[Point]:
    """Return corners, middles of edges and centre of the bed, from back left on."""
    names = (("Back left", "Back", "Back right"), ("Left", "Centre", "Right"),
             ("Front left", "Front", "Front right"))  # fmt: skip
    wide, deep = part.bed_width_mm, part.bed_height_mm
    return [
        Point(name, wide * col / 2, deep * (2 - row) / 2)
        for row, line in enumerate(names)
        for col, name in enumerate(line)
    ]


def jobs_of(machine: Machine, wanted: Job | None = None) -> list[Job]:
    """Return those in a machine's line, its newest jobs, and a wanted one."""
    line = list(Job.objects.with_all().in_line_at(machine))
    others = Job.objects.with_all().filter(machine=machine).order_by("-pk")[:_MOST_JOBS]
    newest = [*line, *(one for one in others if one not in line)]
    return newest if wanted is None or wanted in newest else [*newest, wanted]


def job_facts(job: Job) -> JobFacts:
    """Return a job as it lies on its machine."""
    spec = spec_of(job)
    picture = view_key(shown_spec(job), "proof")
    return JobFacts(job, spec, picture, hand_list(job, spec), burned_box(spec))


def _blanks(spec: JobSpec) -> list[tuple[DrawnBlank, str]]:
    """Return every blank of a job, and how it is turned on the bed."""
    lying = pieces(spec) if spec.fixture is not None else [spec]
    return [(drawn_blank(one), svg_turn(one)) for one in lying]


_LOWERS = [
    (-5.0, "↓ 5"), (-1.0, "↓ 1"), (-0.1, "↓ 0.1"), (-0.02, "↓ 0.02"), (5.0, "↑ 5"),
    (1.0, "↑ 1"), (0.1, "↑ 0.1"), (0.02, "↑ 0.02"),
]  # fmt: skip
"""Steps of a tool in mm, and what their buttons say."""
_TRIMMED = [("speed", "Speed"), ("power", "Power")]
_LIFTS = [(1.0, "↑ 1"), (0.1, "↑ 0.1"), (-0.1, "↓ 0.1"), (-1.0, "↓ 1")]
"""Ways of the lens in mm, and what their buttons say."""


def _bed_facts(part: MachinePart) -> str:
    """Return what the page's script needs to know of the bed, as JSON."""
    frame = frame_of(part)
    return json.dumps(
        {
            "width": part.bed_width_mm, "height": part.bed_height_mm,
            "signX": frame.sign_x, "signY": frame.sign_y,
            "offsetX": frame.offset_x, "offsetY": frame.offset_y,
        }
    )  # fmt: skip


def _steps(*, inches: bool) -> list[tuple[float, str]]:
    """Return the steps of creeping: in mm, and as they are named."""
    if inches:
        return [
            (round(one * MM_PER_INCH, 4), f"{one:g}") for one in (0.5, 0.05, 0.02, 0.005)
        ]
    return [(one, f"{one:g}") for one in (10.0, 1.0, 0.5, 0.1)]


_NUDGES: list[tuple[float, float, str]] = [
    (-0.5, 0, "← 0.5"), (-0.1, 0, "← 0.1"), (0.1, 0, "→ 0.1"), (0.5, 0, "→ 0.5"),
    (0, 0.5, "↑ 0.5"), (0, 0.1, "↑ 0.1"), (0, -0.1, "↓ 0.1"), (0, -0.5, "↓ 0.5"),
]  # fmt: skip
"""Ways in mm of the bed, while the border is walked, and what their buttons say."""


def _view(part: MachinePart) -> str:
    """Return the bed's view box, with a rim."""
    rim = 0.03 * max(part.bed_width_mm, part.bed_height_mm)
    wide, deep = part.bed_width_mm + 2 * rim, part.bed_height_mm + 2 * rim
    return f"{-rim:.2f} {-rim:.2f} {wide:.2f} {deep:.2f}"


def _flip(part: MachinePart) -> str:
    """Return how a picture in the machine's frame is laid on the bed as it is seen."""
    frame = frame_of(part)
    x = 0.0 if frame.sign_x > 0 else part.bed_width_mm
    y = 0.0 if frame.sign_y > 0 else part.bed_height_mm
    return f"translate({x:g} {y:g}) scale({frame.sign_x} {frame.sign_y})"


def _again_from(run: Run) -> int:
    """Return the row that a burn that was broken off is gone on from."""
    return max(run.first_row + run.rows_done - _OVERLAP_ROWS, 0)
