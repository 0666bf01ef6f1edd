"""Other speeds, passes and resolutions of the same dose, and how long each burns.

Time is the closed form of full rows burned both ways, `row_seconds`, plus the
step to the next row, 2·√(pitch/a): exact enough to choose by.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from engraving.jobspec import JobSpec
from engraving.recipe.dose import (
    job_dose_j_mm2,
    quickest_row_speed_mm_s,
    row_acceleration,
    row_seconds,
    row_top_speed,
    row_ways,
    watts,
)
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
    a, total = row_acceleration(spec), 0.0
    for long, apart, across in _ways(spec, pitch_mm):
        one_row = row_seconds(long, speed_mm_s, a) + 2 * math.sqrt(apart / a)
        if not spec.burn.both_ways:
            one_row += row_seconds(long, spec.machine.rapid_mm_s, a)
        total += dots_across(across, apart) * one_row
    return passes * total


def _ways(spec: JobSpec, pitch_mm: float) -> list[tuple[float, float, float]]:
    """Return length, distance and whole breadth of the rows, for each way they run.

    At another pitch dots lie as far apart as rows; where dots are kept, or the
    pitch stays, they lie as they do now.
    """
    size = spec.size
    stays = spec.keeps_dots or pitch_mm == size.pitch_mm
    along = size.along_mm if stays else pitch_mm
    along_x = size.width_mm, pitch_mm, size.height_mm
    along_y = size.height_mm, along, size.width_mm
    return [along_y if way else along_x for way in row_ways(spec)]


def _rows_a_mm(spec: JobSpec, pitch_mm: float) -> float:
    """Return how many rows lie over a mm of the piece: its dose is so often a line's."""
    return sum(1 / apart for _, apart, _ in _ways(spec, pitch_mm))


def _row_mm(spec: JobSpec) -> float:
    """Return the length of the longest rows."""
    return max(long for long, _, _ in _ways(spec, spec.size.pitch_mm))


def quickest_mm_s(spec: JobSpec) -> float:
    """Return the speed of the quickest rows at this width, as far as the machine goes."""
    best = quickest_row_speed_mm_s(_row_mm(spec), row_acceleration(spec))
    return min(best, row_top_speed(spec))


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
    pitch, most = spec.size.pitch_mm, row_top_speed(spec)
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
    closer = _rows_a_mm(spec, pitch_mm) / _rows_a_mm(spec, spec.size.pitch_mm)
    speed = spec.burn.speed_mm_s * closer
    return round(min(speed, row_top_speed(spec)), 1)


def _at(spec: JobSpec, speed: float, pitch: float, quickest: float) -> Iterator[Variant]:
    """Yield the fewest passes whose power is in reach, if the machine runs that fast."""
    machine = spec.machine
    if not 0 < speed <= row_top_speed(spec):
        return
    full = watts(100, machine.rated_power_w)
    needed = 100 * job_dose_j_mm2(spec) * speed / (full * _rows_a_mm(spec, pitch))
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
