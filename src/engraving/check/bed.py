"""Where the piece lies on the bed, and the room its rows need."""

import math

from engraving.cards import fastest_mm_s
from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.jobspec import JobSpec
from engraving.place import Box, burned_box, burning_order, centred, inside_bed
from engraving.recipe import row_acceleration, run_ups_mm


@rule()
def pockets_hold_something(facts: Facts) -> Finding | Fine | None:
    """At least one pocket of a fixture is on, and each has what it is to burn."""
    spec = facts.spec
    fixture = spec.fixture
    if fixture is None:
        return None
    order = burning_order(spec)
    if not order:
        return Finding(
            "pockets_hold_something",
            Severity.STOP,
            "place",
            "Every pocket of the fixture is off, so nothing would be burned.",
            f"0 of {fixture.count} pockets",
        )
    bare = [i for i in order if fixture.pocket(i).artwork is None]
    if fixture.picture == "own" and bare:
        return Finding(
            "pockets_hold_something",
            Severity.CAUTION,
            "place",
            "Some pockets have no picture of their own and burn the job's.",
            f"{len(bare)} of {len(order)} pockets",
        )
    return Fine("pockets_hold_something", "Pockets", f"{len(order)} of {fixture.count}")


@rule()
def zero_is_where_the_head_stands(facts: Facts) -> Finding | Fine | None:
    """Whoever starts from the head's place has to have driven it there."""
    spec = facts.spec
    if spec.place.zero != "head":
        return None
    box = burned_box(spec)
    point = spec.place.anchor.replace("-", " ")
    return Finding(
        "zero_is_where_the_head_stands",
        Severity.NOTE,
        "place",
        f"It begins where the head stands: drive it to the {point} of the burn first.",
        f"{box.width:.1f} × {box.height:.1f} mm from there",
    )


def _overhang_mm(box: Box, spec: JobSpec) -> float:
    machine = spec.machine
    return max(
        -box.left,
        -box.front,
        box.right - machine.bed_width_mm,
        box.back - machine.bed_height_mm,
    )


@rule(of_rows=True)
def on_the_bed(facts: Facts) -> Finding | Fine | None:
    """The artwork's rectangle lies on the bed."""
    spec = facts.spec
    box = burned_box(spec)
    if inside_bed(box, spec.machine):
        return Fine("on_the_bed", "Inside the bed", f"{-_overhang_mm(box, spec):.1f} mm")
    x, y = centred(spec.size, spec.machine)
    if spec.fixture:
        x = spec.place.x_mm + (spec.machine.bed_width_mm - box.left - box.right) / 2
        y = spec.place.y_mm + (spec.machine.bed_height_mm - box.front - box.back) / 2
    fits = box.width <= spec.machine.bed_width_mm and (
        box.height <= spec.machine.bed_height_mm
    )
    return Finding(
        "on_the_bed",
        Severity.STOP,
        "place",
        "The picture reaches beyond the bed, where the head would hit its end.",
        f"{_overhang_mm(box, spec):.1f} mm over the edge of {spec.machine.name}",
        Fix("Centre on the bed", {"place": {"x_mm": x, "y_mm": y}}) if fits else None,
    )


@rule(of_rows=True, of="beam")
def run_up_on_the_bed(facts: Facts) -> Finding | Fine | None:
    """The head has room to reach speed beside every row."""
    spec = facts.spec
    piece = burned_box(spec)
    if not inside_bed(piece, spec.machine):
        return None
    run_up, along_y = run_ups_mm(spec, fastest_mm_s(spec))
    box = burned_box(spec, run_up, along_y)
    room = min(piece.left, spec.machine.bed_width_mm - piece.right)
    if along_y > run_up:
        run_up, room = along_y, min(piece.front, spec.machine.bed_height_mm - piece.back)
    if inside_bed(box, spec.machine):
        figure = f"{run_up:.1f} of {room:.1f} mm"
        return Fine("run_up_on_the_bed", "Run-up", figure)
    return Finding(
        "run_up_on_the_bed",
        Severity.STOP,
        "place",
        "There is no room beside the picture to reach speed; the head would hit its end.",
        f"{run_up:.1f} mm run-up, {max(room, 0):.1f} mm free",
        None if along_y else _make_room(spec, run_up, room),
    )


def _make_room(spec: JobSpec, run_up: float, room: float) -> Fix | None:
    """Move the piece where that is enough, else slow down."""
    box = burned_box(spec)
    free = spec.machine.bed_width_mm - box.width
    if free >= 2 * run_up:
        shift = min(max(box.left, run_up), free - run_up) - box.left
        x = spec.place.x_mm + shift
        side = "right" if shift > 0 else "left"
        label = f"Move {abs(shift):.1f} mm {side}"
        return Fix(label, {"place": {"x_mm": x}})
    slower = math.floor(math.sqrt(2 * row_acceleration(spec) * max(room, 0)))
    if slower < 1:
        return None
    return Fix(f"Set {slower} mm/s", {"burn": {"speed_mm_s": float(slower)}})
