"""Rules on what the controller makes of numbers: positions, motor steps, power, lines."""

import math

import numpy as np

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.dots.power import FULL, power_table
from engraving.jobspec import JobSpec
from engraving.place import unevenness
from engraving.recipe import row_acceleration, row_seconds
from engraving.sending import BITS_A_BYTE

_UNEVEN = 0.05
"""Rows that differ by more of their distance show as bands (common practice)."""
_MARGIN = 1.1
_FEW_WORDS = 64
_ROUNDED = 0.02
_HELD_BACK = 0.01
_NEARLY_FULL = 0.5
_NEAR = 1e-6


@rule(of_rows=True)
def rows_are_written_evenly(facts: Facts) -> Finding | Fine | None:
    """The controller reads enough decimals for rows as close as these."""
    spec = facts.spec
    if spec.card:
        return None
    share = unevenness(spec)
    figure = f"{100 * share:.1f} % of {spec.size.pitch_mm:.3f} mm"
    if share <= _UNEVEN:
        return Fine("rows_are_written_evenly", "Uneven by", f"{100 * share:.1f} %")
    unit = "inches" if spec.machine.inches else "mm"
    return Finding(
        "rows_are_written_evenly",
        Severity.CAUTION,
        "burn",
        "The controller reads too few decimals for rows so close; they would lie unevenly.",
        f"{figure}, {spec.machine.most_decimals} decimals of {unit} at most",
    )


@rule(of_rows=True)
def rows_on_motor_steps(facts: Facts) -> Finding | Fine | None:
    """Rows lie whole motor steps apart, or so many that it does not matter."""
    spec = facts.spec
    step, pitch = spec.machine.step_mm, spec.size.pitch_mm
    if not step or spec.card or spec.mount.rotary or spec.place.turn_deg % 90:
        return None
    count = pitch / step
    whole = abs(count - round(count)) <= _NEAR * max(count, 1)
    share = 0.0 if whole else step / pitch
    figure = f"{count:.2f} steps of {step:g} mm, {100 * share:.1f} % uneven"
    if share <= _UNEVEN:
        return Fine("rows_on_motor_steps", "Motor steps", f"{count:.5g} a row")
    even = max(round(count), 1) * step
    fix = (
        None if spec.keeps_dots else Fix(f"Set {even:.4g} mm", {"size": {"pitch_mm": even}})
    )
    return Finding(
        "rows_on_motor_steps",
        Severity.CAUTION,
        "blank",
        "Rows do not lie whole motor steps apart, so some lie closer than others.",
        figure,
        fix,
    )


@rule(of_rows=True, of="dots")
def power_is_written_finely(facts: Facts) -> Finding | Fine | None:
    """The controller's power words are fine enough for the power that is asked for."""
    spec = facts.spec
    if spec.card or spec.machine.touches:
        return None
    exact = spec.burn.power / 100 * spec.machine.s_max
    word = round(exact)
    if spec.dots.method == "power" and not spec.keeps_dots:
        return _tones(spec, word)
    off = abs(word - exact) / exact if exact else 0.0
    figure = f"S{word} of {spec.machine.s_max}, {100 * off:.1f} % off"
    if off <= _ROUNDED:
        return Fine("power_is_written_finely", "Power word", f"S{word}")
    return Finding(
        "power_is_written_finely",
        Severity.CAUTION,
        "burn",
        "The controller's power words are too coarse for this power; the dose is off by so "
        "much.",
        figure,
    )


def _tones(spec: JobSpec, word: int) -> Finding | Fine:
    """Look at how many strengths the tones are burned at."""
    wanted = power_table(spec.dots)
    words = np.rint(wanted / FULL * word)
    unburned = int(np.count_nonzero((words == 0) & (np.arange(256) < 255)))
    levels = min(word, spec.dots.steps - 1) + 1
    figure = f"{levels} levels, {unburned} tones unburned, S{word} of {spec.machine.s_max}"
    meant = int(np.count_nonzero((wanted == 0) & (np.arange(256) < 255)))
    if levels >= min(_FEW_WORDS, spec.dots.steps) and unburned <= meant:
        return Fine("power_is_written_finely", "Power levels", f"{levels}")
    return Finding(
        "power_is_written_finely",
        Severity.CAUTION,
        "burn",
        "The controller's power words are too coarse: tones run together, the lightest are "
        "not burned.",
        figure,
    )


def _slower(spec: JobSpec, times: float) -> float:
    """Return the speed at which a row, its turn-round included, takes so often as long.

    The smaller root of w/v + 2v/a = T; see `row_seconds`.
    """
    wide = spec.size.height_mm if spec.burn.rows == "y" else spec.size.width_mm
    a = row_acceleration(spec)
    whole = times * row_seconds(wide, spec.burn.speed_mm_s, a)
    return (whole - math.sqrt(max(whole**2 - 8 * wide / a, 0.0))) * a / 4


@rule()
def link_keeps_up(facts: Facts) -> Finding | Fine | None:
    """The lines come over the serial link as fast as they are burned."""
    baud, needed = facts.spec.machine.link_baud, facts.bytes_s
    if not baud or needed is None:
        return None
    most = baud / BITS_A_BYTE
    figure = f"{needed / 1000:.1f} kB/s needed, {most / 1000:.1f} kB/s at {baud} baud"
    if needed <= most:
        return Fine("link_keeps_up", "Link", figure)
    slower = _slower(facts.spec, _MARGIN * needed / most)
    return Finding(
        "link_keeps_up",
        Severity.CAUTION,
        "burn",
        "The link is too slow for dots so close at this speed; the head would wait, and "
        "burn dark spots.",
        figure,
        Fix(
            f"Set {math.floor(slower)} mm/s",
            {"burn": {"speed_mm_s": float(math.floor(slower))}},
        )
        if slower >= 1 and not facts.spec.card
        else None,
    )


@rule(of="beam")
def waits_with_the_beam_off(facts: Facts) -> Finding | None:
    """A head that waits for lines burns no spot."""
    machine, needed = facts.spec.machine, facts.bytes_s
    if machine.beam != "M3" or not machine.link_baud or needed is None:
        return None
    share = needed / (machine.link_baud / BITS_A_BYTE)
    if share <= _NEARLY_FULL:
        return None
    return Finding(
        "waits_with_the_beam_off",
        Severity.NOTE,
        "burn",
        "With M3 the beam burns on where the head waits, and this job fills over half the "
        "link: whenever that stalls, a spot is burned. M4 puts the beam out meanwhile.",
        f"{100 * share:.0f} % of {machine.link_baud} baud",
    )


def _seen_through(spec: JobSpec) -> float:
    """Return the speed from which the head stops within the moves planned, dot by dot.

    The one under way is among them, so v² = 2·a·(n − 1)·dot (uniform acceleration).
    """
    ahead = max(spec.machine.look_ahead - 1, 0)
    return math.sqrt(2 * row_acceleration(spec) * ahead * spec.size.cell_mm[0])


@rule()
def enough_moves_are_planned(facts: Facts) -> Finding | Fine | None:
    """The controller plans so many moves together that short ones hold no head back."""
    spec, timed = facts.spec, facts.timed
    if timed is None or not timed.seconds or not spec.machine.look_ahead:
        return None
    steady = spec.machine.beam == "M3"
    figure = (
        f"{timed.held_back_s:.0f} s of {timed.seconds:.0f} s, "
        f"{spec.machine.look_ahead} moves planned"
    )
    if timed.held_back_s <= _HELD_BACK * timed.seconds:
        return Fine(
            "enough_moves_are_planned", "Moves planned", str(spec.machine.look_ahead)
        )
    slower = math.floor(_seen_through(spec))
    return Finding(
        "enough_moves_are_planned",
        Severity.CAUTION if steady else Severity.NOTE,
        "burn",
        "The controller plans too few moves together for ones so short at this speed: the "
        "head slows amid them, "
        + ("and burns darker there." if steady else "and the burn takes longer."),
        figure,
        Fix(f"Set {slower} mm/s", {"burn": {"speed_mm_s": float(slower)}})
        if 1 <= slower < spec.burn.speed_mm_s and not spec.card
        else None,
    )
