"""Dose, run-up and the quickest speed of a row.

Sources: energy over length or area by definition; uniformly accelerated
motion, v² = 2 a s.
"""

import math
from collections.abc import Sequence
from itertools import pairwise

from engraving.jobspec import JobSpec


def watts(power: float, rated_power_w: float) -> float:
    """Return the beam's power in W of a setting in % of a rated power in W."""
    return power / 100 * rated_power_w


def line_energy_j_mm(power_w: float, speed_mm_s: float) -> float:
    """Return energy per length, P / v, in J/mm."""
    return power_w / speed_mm_s


def areal_dose_j_mm2(
    power_w: float, speed_mm_s: float, pitch_mm: float, passes: int = 1
) -> float:
    """Return energy per area of a solid patch, P·passes / (v·pitch), in J/mm²."""
    return power_w * passes / (speed_mm_s * pitch_mm)


def job_dose_j_mm2(spec: JobSpec) -> float:
    """Return the areal dose of a job's solid parts, all passes, in J/mm².

    Rows along Y lie as far apart as the dots of a row along X; crossed rows
    burn both.
    """
    burn = spec.burn
    power_w = watts(burn.power, spec.machine.rated_power_w)
    along, pitch = spec.size.cell_mm
    first, second = (along, pitch) if burn.rows == "y" else (pitch, along)
    dose = areal_dose_j_mm2(power_w, burn.speed_mm_s, first, burn.passes)
    if burn.cross:
        dose += areal_dose_j_mm2(power_w, burn.speed_mm_s, second, burn.passes)
    return dose


def row_shift_mm(table: Sequence[tuple[float, float]], speed_mm_s: float) -> float:
    """Return how far return rows are moved at a speed, in mm.

    Between the table's speeds it runs straight; below the first it falls to
    nothing at rest with the speed, as a delay does; beyond the last it goes on
    in proportion.
    """
    if not table:
        return 0.0
    speeds = [0.0, *(speed for speed, _ in table)]
    shifts = [0.0, *(shift for _, shift in table)]
    if speed_mm_s >= speeds[-1]:
        return shifts[-1] * speed_mm_s / speeds[-1]
    for (v0, s0), (v1, s1) in pairwise(zip(speeds, shifts, strict=True)):
        if speed_mm_s <= v1:
            return s0 + (s1 - s0) * (speed_mm_s - v0) / (v1 - v0)
    return shifts[-1]


def exposure(spec: JobSpec) -> float:
    """Return a job's dose as a multiple of the one its substrate's look is known for."""
    known = spec.burn.recipe_dose
    return job_dose_j_mm2(spec) / known if known else 1.0


def smear_mm(spec: JobSpec) -> float:
    """Return how far the head moves while the beam comes up, in mm."""
    return spec.machine.response_ms / 1000 * spec.burn.speed_mm_s


def least_run_mm(spec: JobSpec) -> float:
    """Return the length of the shortest run of dots that burns as planned, in mm."""
    return spec.dots.least_run_mm or smear_mm(spec)


def run_up_mm(speed_mm_s: float, acceleration_mm_s2: float) -> float:
    """Return the travel needed to reach a speed from rest, v² / (2 a), in mm."""
    return speed_mm_s**2 / (2 * acceleration_mm_s2)


def row_ways(spec: JobSpec) -> tuple[float, ...]:
    """Return how rows run on the piece, in degrees: 0 along X, 90 along Y, or both."""
    first = 90.0 if spec.burn.rows == "y" else 0.0
    return (first, 90.0 - first) if spec.burn.cross else (first,)


def row_angles(spec: JobSpec, ways: Sequence[float] | None = None) -> tuple[float, ...]:
    """Return the directions in which rows are burned, in degrees from X.

    A turned piece turns its rows, and so does each turned pocket of a fixture.
    `ways` are some of `row_ways`, all where they are not given.
    """
    pockets = spec.fixture.pockets if spec.fixture else ()
    turns = dict.fromkeys([0.0, *(one.turn_deg for one in pockets if one.on)])
    return tuple(
        way + spec.place.turn_deg + turn
        for turn in turns
        for way in (row_ways(spec) if ways is None else ways)
    )


def row_acceleration(spec: JobSpec, ways: Sequence[float] | None = None) -> float:
    """Return the least acceleration along rows, in mm/s²; see `row_angles`."""
    angles = row_angles(spec, ways)
    return min(spec.machine.acceleration_along(angle) for angle in angles)


def row_top_speed(spec: JobSpec) -> float:
    """Return the speed that all of a job's rows can run at, in mm/s."""
    return min(spec.machine.top_speed_along(angle) for angle in row_angles(spec))


def run_ups_mm(spec: JobSpec, speed_mm_s: float | None = None) -> tuple[float, float]:
    """Return the run-up that a job's rows need, in mm.

    Parameters
    ----------
    spec : JobSpec
    speed_mm_s : float, optional
        Of the fastest rows; the job's where it is not given.

    Returns
    -------
    beside, before : float
        At both ends of rows along X, and of rows along Y; 0 where none run so.
    """
    fastest = spec.burn.speed_mm_s if speed_mm_s is None else speed_mm_s
    found = {
        way: run_up_mm(fastest, row_acceleration(spec, (way,))) for way in row_ways(spec)
    }
    return found.get(0.0, 0.0), found.get(90.0, 0.0)


def quickest_row_speed_mm_s(width_mm: float, acceleration_mm_s2: float) -> float:
    """Return the speed that finishes a row soonest, run-ups included.

    A row takes W/v + 2v/a, least at v = √(W·a/2): faster than that is slower.
    """
    return math.sqrt(width_mm * acceleration_mm_s2 / 2)


def row_seconds(width_mm: float, speed_mm_s: float, acceleration_mm_s2: float) -> float:
    """Return about how long a row burned both ways takes, its turn-round included.

    The width at speed, then down to a stand and up again: ``w/v + 2v/a``
    (uniform acceleration).
    """
    return width_mm / speed_mm_s + 2 * speed_mm_s / acceleration_mm_s2
