"""Other speeds, passes and resolutions of the same dose, and how long each burns.

Time is the closed form of full rows burned both ways, `row_seconds`, plus the
step to the next row, 2·√(pitch/a): exact enough to choose by.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from engraving.recipe.dose import (
    job_dose_j_mm2,
    quickest_row_speed_mm_s,
    row_seconds,
    watts,
)
from engraving.spec import JobSpec
from engraving.units import dots_across, pitch_to_dpi

_SPEEDS = (0.25, 0.5, 0.75, 1.0, 1.5, 2.0, 3.0)
_PITCHES = (2.0, 1.5, 1.25, 1.0, 0.8, 2 / 3, 0.5)
_MOST_PASSES = 4


@dataclass(frozen=True)
class Variant:
    """One way to burn the same dose.

    Attributes
    ----------
    seconds : float
        About how long all rows take.
    why : str
        What sets it apart: "now", "quickest", "finest the spot can show", or empty.
    slower_than_slower : bool
        Faster than the quickest speed: run-ups eat more than the speed gains.
    """

    speed_mm_s: float
    power: float
    passes: int
    pitch_mm: float
    seconds: float
    why: str = ""
    slower_than_slower: bool = False

    @property
    def dpi(self) -> float:
        """Rows per inch."""
        return pitch_to_dpi(self.pitch_mm)


def full_rows_seconds(
    spec: JobSpec, speed_mm_s: float, pitch_mm: float, passes: int
) -> float:
    """Return about how long full rows take at a speed, pitch and number of passes."""
    a, width = spec.machine.acceleration_mm_s2, spec.size.width_mm
    one_row = row_seconds(width, speed_mm_s, a) + 2 * math.sqrt(pitch_mm / a)
    if not spec.burn.both_ways:
        one_row += row_seconds(width, spec.machine.rapid_mm_s, a)
    return passes * dots_across(spec.size.height_mm, pitch_mm) * one_row


def quickest_mm_s(spec: JobSpec) -> float:
    """Return the speed of the quickest rows at this width, as far as the machine goes."""
    machine = spec.machine
    best = quickest_row_speed_mm_s(spec.size.width_mm, machine.acceleration_mm_s2)
    return min(best, machine.max_speed_mm_s)


def variants(spec: JobSpec) -> list[Variant]:
    """Return ways to burn a job at its present dose: first by speed, then by pitch.

    Only what the machine can do; the present setting is among them.
    """
    found = {(one.speed_mm_s, one.passes, one.pitch_mm): one for one in _all(spec)}
    return sorted(
        found.values(), key=lambda one: (-one.pitch_mm, one.passes, one.speed_mm_s)
    )


def _all(spec: JobSpec) -> Iterator[Variant]:
    burn, machine = spec.burn, spec.machine
    pitch, most = spec.size.pitch_mm, machine.max_speed_mm_s
    quickest = quickest_mm_s(spec)
    speeds = {round(burn.speed_mm_s * times, 1) for times in _SPEEDS}
    for speed in sorted({*speeds, round(min(quickest, most), 1), round(most, 1)}):
        yield from _at(spec, speed, pitch, quickest)
    for times in _PITCHES:
        finer = round(pitch * times, 4)
        if finer >= 0.5 * machine.spot_mm and times != 1:
            yield from _at(spec, _even_speed(spec, finer), finer, quickest)
    yield _made(spec, burn.speed_mm_s, burn.power, burn.passes, pitch, quickest)


def _even_speed(spec: JobSpec, pitch_mm: float) -> float:
    """Return the speed of equal dose at another pitch, power as it is, within reach."""
    speed = spec.burn.speed_mm_s * spec.size.pitch_mm / pitch_mm
    return round(min(speed, spec.machine.max_speed_mm_s), 1)


def _at(spec: JobSpec, speed: float, pitch: float, quickest: float) -> Iterator[Variant]:
    """Yield the fewest passes whose power is in reach, if the machine runs that fast."""
    machine = spec.machine
    if not 0 < speed <= machine.max_speed_mm_s:
        return
    full = watts(100, machine.rated_power_w)
    needed = 100 * job_dose_j_mm2(spec) * speed * pitch / full
    passes = max(1, math.ceil(needed / 100 - 1e-9))
    power = round(needed / passes, 1)
    if passes <= _MOST_PASSES and power >= max(machine.lowest_power, 0.1):
        yield _made(spec, speed, power, passes, pitch, quickest)


def _made(
    spec: JobSpec, speed: float, power: float, passes: int, pitch: float, quickest: float
) -> Variant:
    now = spec.burn.speed_mm_s, spec.burn.passes, spec.size.pitch_mm
    why = "now" if (speed, passes, pitch) == now else ""
    if not why and abs(speed - quickest) < 0.06:
        why = "quickest"
    seconds = full_rows_seconds(spec, speed, pitch, passes)
    return Variant(speed, power, passes, pitch, seconds, why, speed > quickest + 0.06)
