"""One rule a function: facts of a job to a finding, a fine, or nothing.

A rule that cannot judge (the artwork is not at hand) returns None. Limits
without a source are common practice.
"""

import math
from collections.abc import Callable
from typing import Any

from engraving.cards import fastest_mm_s, weakest_power
from engraving.check import artwork, burning, operations, outlines, rotary, size, written
from engraving.check.findings import (
    OF_ROWS,
    Facts,
    Finding,
    Fine,
    Fix,
    Result,
    Severity,
    of_rows,
)
from engraving.jobspec import JobSpec
from engraving.place import (
    Box,
    burned_box,
    burning_order,
    centred,
    inside_bed,
)
from engraving.recipe import (
    quickest_mm_s,
    row_acceleration,
    row_top_speed,
    row_ways,
    run_up_mm,
)

_SLACK = 1e-6
_ALONG_X, _ALONG_Y = 0.0, 90.0


def _run_up(spec: JobSpec) -> float:
    """Return the run-up left and right of the rows; rows along Y need none there."""
    if _ALONG_X not in row_ways(spec):
        return 0.0
    return run_up_mm(fastest_mm_s(spec), row_acceleration(spec, (_ALONG_X,)))


def _run_up_y(spec: JobSpec) -> float:
    """Return the run-up before and behind rows along Y."""
    if _ALONG_Y not in row_ways(spec):
        return 0.0
    return run_up_mm(spec.burn.speed_mm_s, row_acceleration(spec, (_ALONG_Y,)))


def _overhang_mm(box: Box, spec: JobSpec) -> float:
    machine = spec.machine
    return max(
        -box.left,
        -box.front,
        box.right - machine.bed_width_mm,
        box.back - machine.bed_height_mm,
    )


@of_rows
def on_the_bed(facts: Facts) -> Result:
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


@of_rows
def run_up_on_the_bed(facts: Facts) -> Result:
    """The head has room to reach speed beside every row."""
    spec = facts.spec
    piece = burned_box(spec)
    if not inside_bed(piece, spec.machine):
        return None
    run_up, along_y = _run_up(spec), _run_up_y(spec)
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


@of_rows
def pitch_against_spot(facts: Facts) -> Result:
    """Rows lie no closer than the beam is wide."""
    if facts.spec.card:
        return None
    pitch, spot = facts.spec.size.pitch_mm, facts.spec.machine.spot_mm
    if pitch >= spot - _SLACK:
        return Fine("pitch_against_spot", "Rows and spot", f"{pitch:.3f}, {spot:.3f} mm")
    return Finding(
        "pitch_against_spot",
        Severity.CAUTION,
        "blank",
        "Rows lie closer than the spot is wide, so neighbouring dots run together.",
        f"{pitch:.3f} mm rows, {spot:.3f} mm spot",
        _as_far_as_the_spot(facts.spec),
    )


def _as_far_as_the_spot(spec: JobSpec) -> Fix:
    """Lay rows a spot apart; of kept dots the piece grows with them."""
    size, spot = spec.size, spec.machine.spot_mm
    if not spec.keeps_dots:
        return Fix(f"Set {spot:.3f} mm", {"size": {"pitch_mm": spot}})
    times = spot / size.pitch_mm
    new: dict[str, float] = {
        "pitch_mm": spot,
        "width_mm": size.width_mm * times,
        "height_mm": size.height_mm * times,
    }
    if size.dot_pitch_mm:
        new["dot_pitch_mm"] = size.dot_pitch_mm * times
    wide, high = new["width_mm"], new["height_mm"]
    return Fix(f"Set {spot:.3f} mm, {wide:.1f} × {high:.1f} mm large", {"size": new})


@of_rows
def speed_in_range(facts: Facts) -> Result:
    """The machine can run at the engraving speed."""
    spec = facts.spec
    speed = fastest_mm_s(spec)
    most = row_top_speed(spec)
    if speed <= most + _SLACK:
        return Fine("speed_in_range", "Speed", f"{speed:g} of {most:g} mm/s")
    return Finding(
        "speed_in_range",
        Severity.STOP,
        "burn",
        "The machine cannot run that fast, so it would burn slower and darker.",
        f"{speed:g} mm/s wanted, {most:g} mm/s possible",
        None if spec.card else Fix(f"Set {most:g} mm/s", {"burn": {"speed_mm_s": most}}),
    )


@of_rows
def power_in_range(facts: Facts) -> Result:
    """The beam marks at the set power."""
    spec = facts.spec
    power, least = weakest_power(spec), spec.machine.lowest_power
    if spec.card and 0 < power < least - _SLACK:
        # A card may well try what does not mark.
        return Fine("power_in_range", "Weakest cell", f"{power:g} %, {least:g} % marks")
    if power > 0 and power >= least - _SLACK:
        label = "Weakest cell" if spec.card else "Power"
        return Fine("power_in_range", label, f"{power:g} %")
    change: dict[str, Any] = {"burn": {"power": least}}
    return Finding(
        "power_in_range",
        Severity.STOP,
        "burn",
        "The beam does not mark at so little power.",
        f"{power:g} % set, {least:g} % is the least",
        Fix(f"Set {least:g} %", change) if least > 0 else None,
    )


@of_rows
def something_to_burn(facts: Facts) -> Result:
    """At least one dot is burned."""
    if facts.burned_dots is None:
        return None
    total = facts.dots or facts.spec.size.cols * facts.spec.size.rows
    if facts.burned_dots:
        share = facts.burned_dots / total if facts.share is None else facts.share
        return Fine("something_to_burn", "Burned", f"{100 * share:.1f} %")
    return Finding(
        "something_to_burn",
        Severity.STOP,
        "tone",
        "No dot would be burned: the picture is all ground at these tones.",
        f"0 of {total:,} dots",
    )


@of_rows
def faster_is_slower(facts: Facts) -> Result:
    """Run-ups do not eat what the speed gains."""
    spec = facts.spec
    if spec.card:
        return None
    best = quickest_mm_s(spec)
    if spec.burn.speed_mm_s <= best + _SLACK:
        return Fine("faster_is_slower", "Quickest speed", f"{best:.0f} mm/s")
    return Finding(
        "faster_is_slower",
        Severity.NOTE,
        "burn",
        "Run-ups are longer than the rows, so a slower speed would finish sooner.",
        f"{spec.burn.speed_mm_s:g} mm/s set, quickest at {best:.0f} mm/s",
    )


def pockets_hold_something(facts: Facts) -> Result:
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


def zero_is_where_the_head_stands(facts: Facts) -> Result:
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


def safe_under_a_beam(facts: Facts) -> Result:
    """No beam burns what gives off chlorine.

    Chlorine plastics give off hydrogen chloride (common practice, no source).
    """
    spec = facts.spec
    hazard = spec.substrate.hazard
    if hazard == "chlorine" and not spec.machine.touches:
        return Finding(
            "safe_under_a_beam",
            Severity.STOP,
            "blank",
            "It holds chlorine, which comes off as acid gas under a beam: it is refused.",
            spec.substrate.name,
        )
    return None


def mercury_in_old_mirrors(facts: Facts) -> Result:
    """Whoever burns a mirror knows its backing.

    Tin amalgam backs very old mirrors (common practice, no source).
    """
    if facts.spec.substrate.hazard != "old-mirror":
        return None
    return Finding(
        "mercury_in_old_mirrors",
        Severity.CAUTION,
        "blank",
        "The backing of a very old mirror may hold mercury; burn only what you know.",
        facts.spec.substrate.name,
    )


def marks_with_a_beam(facts: Facts) -> Result:
    """Rows of dots need a beam; a point or a tip cannot be switched."""
    machine = facts.spec.machine
    if not machine.touches:
        return None
    return Finding(
        "marks_with_a_beam",
        Severity.STOP,
        "burn",
        "This machine marks by touching: it cannot burn rows of dots.",
        machine.name,
    )


RULES: tuple[Callable[[Facts], Result], ...] = (
    safe_under_a_beam,
    mercury_in_old_mirrors,
    marks_with_a_beam,
    pockets_hold_something,
    operations.blanks_lie_apart,
    rotary.round_pieces_turn,
    rotary.the_seam_is_closed,
    rotary.clear_of_handles,
    rotary.strips_show,
    operations.something_is_included,
    operations.outlines_are_there,
    operations.cut_loose_last,
    operations.inside_before_outside,
    *outlines.RULES,
    zero_is_where_the_head_stands,
    on_the_bed,
    run_up_on_the_bed,
    size.inside_the_blank,
    pitch_against_spot,
    size.keeps_its_ratio,
    size.source_is_large_enough,
    artwork.dots_are_kept,
    artwork.dots_are_sharp,
    artwork.subject_stands_out,
    artwork.letters_are_wide_enough,
    artwork.letters_fit_their_arc,
    size.worked_from_its_side,
    size.sides_as_they_follow,
    size.plate_has_a_border,
    speed_in_range,
    written.rows_are_written_evenly,
    written.rows_on_motor_steps,
    written.power_is_written_finely,
    written.link_keeps_up,
    power_in_range,
    something_to_burn,
    burning.mostly_burned,
    burning.hardly_burned,
    burning.settings_are_tested,
    burning.dose_as_the_recipe,
    burning.short_runs,
    burning.lightest_tone_marks,
    faster_is_slower,
)
"""Every rule; the order is that of findings of equal weight."""

_WEIGHT = {severity: i for i, severity in enumerate(Severity)}


def check_job(facts: Facts) -> tuple[list[Finding], list[Fine]]:
    """Return findings, worst first, and what is fine."""
    rules = [one for one in RULES if facts.spec.raster or one not in OF_ROWS]
    results = [rule(facts) for rule in rules]
    findings = [result for result in results if isinstance(result, Finding)]
    fine = [result for result in results if isinstance(result, Fine)]
    return sorted(findings, key=lambda found: _WEIGHT[found.severity]), fine
