"""Time along a tool path: trapezoidal speeds, planned ahead.

Model: an acceleration along X and one along Y; along a slant the one on the
ellipse between them. Z has its own; of a move that goes down or up besides, the slower
one rules, of speeds too. Rapid moves run at the rapid speed. Rest-to-rest over x
takes x/v + v/a, or 2√(x/a) where the speed is not reached (uniformly accelerated
motion).

A corner is taken as fast as an arc could be that lies at most the junction
deviation δ beside it and touches both its sides: v² = a δ s / (1 − s), where s is
the sine of half the angle between the sides (plain geometry of that arc, with
v²/r = a). With δ = 0 every corner is a stop, and moves in one line, within 3°, join.

A controller plans so many moves together and must be able to stop at the last of them.
So while one is run with n more behind it, its end is at most as fast as lets the head
stop along those: v² ≤ Σ 2·a·x over them. Many short moves hold a head back.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.jobspec import JobSpec
from engraving.place import job_zero
from engraving.toolpath import Moves

_SUMS = 8
_FLAT = np.zeros(0)
_STRAIGHT = 0.9986
"""Cosine of 3°: so far a line may bend, and be rounded, without being a corner."""
JUNCTION_MM = 0.01
"""A usual junction deviation of open controllers (common practice)."""
Z_AXIS = (10.0, 200.0)
"""Speed in mm/s and acceleration in mm/s² of a usual Z (common practice)."""


@dataclass(frozen=True)
class Estimate:
    """What a tool path takes.

    Attributes
    ----------
    seconds : float
        The whole job.
    burn_s, run_up_s, travel_s : float
        Beam on; beam off at engraving speed (run-ups and blanks inside
        rows); rapid moves. They add up to `seconds`.
    burn_mm, travel_mm : float
        Lengths with the beam on and with it off.
    rows, moves : int
        Burned rows over all passes; moves of all kinds.
    bounds_mm : tuple of float
        Left, front, right, back of all moves in the machine's frame.
    burn_bounds_mm : tuple of float
        The same for moves with the beam on.
    operation_s : mapping
        Seconds of each operation, by its place in the job's list.
    held_back_s : float
        How many of them would be saved by a controller that planned all moves together.
    """

    seconds: float = 0.0
    burn_s: float = 0.0
    run_up_s: float = 0.0
    travel_s: float = 0.0
    burn_mm: float = 0.0
    travel_mm: float = 0.0
    rows: int = 0
    moves: int = 0
    bounds_mm: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    burn_bounds_mm: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    operation_s: Mapping[int, float] = field(default_factory=dict)
    held_back_s: float = 0.0

    @property
    def burn_mm_s(self) -> float:
        """How fast the head runs with the beam on, all in all."""
        return self.burn_mm / self.burn_s if self.burn_s else 0.0


class Clock:
    """Adds up the time of moves, band by band.

    Parameters
    ----------
    accelerations_mm_s2 : tuple of float
        The machine's along X and along Y.
    rapid_mm_s : float
        Its rapid speed.
    start_mm : tuple of float
        Where the head stands at first.
    junction_mm : float
        Junction deviation; 0 for a stop at every corner.
    look_ahead : int
        Moves that are planned together, the one under way among them; 0 for all.
    z_axis : tuple of float
        Highest speed of Z, and its acceleration.
    """

    def __init__(
        self,
        accelerations_mm_s2: tuple[float, float],
        rapid_mm_s: float,
        start_mm: tuple[float, float] = (0.0, 0.0),
        junction_mm: float = JUNCTION_MM,
        look_ahead: int = 0,
        z_axis: tuple[float, float] = Z_AXIS,
    ) -> None:
        self._z_axis = z_axis
        self._height = 0.0
        self._junction = junction_mm
        self._ahead = look_ahead
        self._accelerations = accelerations_mm_s2
        self._rapid = rapid_mm_s
        self._at = start_mm
        self._sums = np.zeros(_SUMS)
        self._last_row = float("nan")
        self._lit = False
        self._bounds = np.array([np.inf, np.inf, -np.inf, -np.inf])
        self._burned = self._bounds.copy()
        self._parts: dict[int, float] = {}
        self._held_back = 0.0

    def add(self, moves: Moves) -> NDArray[np.float64]:
        """Add a band of moves that begins and ends at rest; return each one's seconds."""
        each = np.zeros(len(moves))
        if not len(moves):
            return each
        x = _ends_mm(self._at[0], moves.x, moves.unit_mm)
        y = _ends_mm(self._at[1], moves.y, moves.unit_mm)
        speed = np.where(moves.feed == 0, self._rapid, moves.feed / 60.0)
        rapid = moves.feed == 0
        along = _along(x, y, self._accelerations)
        z, raised_s = _FLAT, 0.0
        if moves.z is None:
            raised_s = self._raised(moves.z_mm)
        else:
            z = _ends_mm(self._height, moves.z, moves.unit_mm)
            _rule_z(x, y, z, self._z_axis, speed, along)
            self._height = float(z[-1])
        corner = (*self._accelerations, self._z_axis[1], self._junction)
        path = (x, y, z)
        _time_moves(
            path, speed, rapid, moves.power, along, corner, self._ahead, self._sums, each
        )
        if self._ahead:
            free, unused = np.zeros_like(each), np.zeros(_SUMS)
            _time_moves(path, speed, rapid, moves.power, along, corner, 0, unused, free)
            self._held_back += float(each.sum() - free.sum())
        # The focus is moved before the first of them.
        each[0] += raised_s
        self._sums[2] += raised_s
        self._at = (float(x[-1]), float(y[-1]))
        self._note_bounds(x, y, moves.power)
        if moves.z is not None:
            down = moves.power > 0
            self._sums[6] += np.count_nonzero(down[1:] & ~down[:-1]) + bool(down[0])
        elif moves.rows < 0:
            self._count_rows(x, y, moves.power > 0)
        else:
            self._sums[6] += moves.rows
        self._parts[moves.operation] = self._parts.get(moves.operation, 0.0) + float(
            each.sum()
        )
        return each

    def _raised(self, height_mm: float) -> float:
        """Return the seconds it takes to move the focus to a height, from rest to rest."""
        far, (speed, acceleration) = abs(height_mm - self._height), self._z_axis
        self._height = height_mm
        peak = min(speed, math.sqrt(acceleration * far))
        return far / peak + peak / acceleration if far else 0.0

    def _note_bounds(
        self,
        x: NDArray[np.float64],
        y: NDArray[np.float64],
        power: NDArray[np.int32],
    ) -> None:
        _widen(x, y, power, self._bounds, self._burned)

    def _count_rows(
        self, x: NDArray[np.float64], y: NDArray[np.float64], burns: NDArray[np.bool_]
    ) -> None:
        """Count the lines that burning moves lie on, along X or along Y.

        What is burned without the beam going out between is one line, however it turns.
        """
        if not burns.size:
            return
        upward = np.abs(np.diff(y)) > np.abs(np.diff(x))
        begins = burns & ~np.concatenate(([self._lit], burns[:-1]))
        self._lit = bool(burns[-1])
        rows = np.where(upward, x[1:], y[1:])[begins]
        if rows.size:
            fresh = 0 if rows[0] == self._last_row else 1
            self._sums[6] += fresh + np.count_nonzero(np.diff(rows))
            self._last_row = float(rows[-1])

    @property
    def seconds(self) -> float:
        """How long all took so far."""
        return float(self._sums[:3].sum())

    def estimate(self) -> Estimate:
        """Return the sums so far."""
        burn_s, run_up_s, travel_s, burn_mm, travel_mm, moves, rows, _ = self._sums
        return Estimate(
            seconds=float(burn_s + run_up_s + travel_s),
            burn_s=float(burn_s),
            run_up_s=float(run_up_s),
            travel_s=float(travel_s),
            burn_mm=float(burn_mm),
            travel_mm=float(travel_mm),
            rows=int(rows),
            moves=int(moves),
            bounds_mm=_corners(self._bounds),
            burn_bounds_mm=_corners(self._burned),
            operation_s=dict(self._parts),
            held_back_s=self._held_back,
        )


def clock_of(spec: JobSpec) -> Clock:
    """Return a clock of a job's machine, its head at the job's zero."""
    machine = spec.machine
    return Clock(
        machine.accelerations,
        machine.rapid_mm_s,
        job_zero(spec),
        machine.junction_mm,
        machine.look_ahead,
        (machine.max_speed_z_mm_s, machine.acceleration_z_mm_s2),
    )


def estimate(
    bands: Iterable[Moves],
    accelerations_mm_s2: tuple[float, float],
    rapid_mm_s: float,
    junction_mm: float = JUNCTION_MM,
    look_ahead: int = 0,
    z_axis: tuple[float, float] = Z_AXIS,
) -> Estimate:
    """Return the estimate of a whole tool path that starts at the origin."""
    clock = Clock(
        accelerations_mm_s2, rapid_mm_s, junction_mm=junction_mm, look_ahead=look_ahead,
        z_axis=z_axis,
    )  # fmt: skip
    for moves in bands:
        clock.add(moves)
    return clock.estimate()


def _along(
    x: NDArray[np.float64], y: NDArray[np.float64], accelerations: tuple[float, float]
) -> NDArray[np.float64]:
    """Return the acceleration along each move, 1/√((ux/ax)² + (uy/ay)²)."""
    along, up = accelerations
    if along == up:
        return np.full(x.size - 1, along)
    dx, dy = np.diff(x), np.diff(y)
    long = np.hypot(dx, dy)
    slow = np.hypot(dx / along, dy / up)
    still = slow == 0
    return np.where(still, along, long / np.where(still, 1, slow))


def _rule_z(
    x: NDArray[np.float64],
    y: NDArray[np.float64],
    z: NDArray[np.float64],
    z_axis: tuple[float, float],
    speed: NDArray[np.floating],
    along: NDArray[np.float64],
) -> None:
    """Lower speeds and accelerations, in place, to what Z can do of each move.

    A rapid move's speed is the one over the bed; a feed is the tool's own, along the
    slant (NISTIR 6556, 2.1.2.5).
    """
    over, deep = np.hypot(np.diff(x), np.diff(y)), np.abs(np.diff(z))
    long = np.hypot(over, deep)
    slanted = deep > 0
    upright, flat = long[slanted] / deep[slanted], over[slanted] / long[slanted]
    most = np.minimum(speed[slanted], z_axis[0] * upright)
    speed[slanted] = most
    able = along[slanted] / np.maximum(flat, 1e-9)
    along[slanted] = np.minimum(able, z_axis[1] * upright)


def _corners(bounds: NDArray[np.float64]) -> tuple[float, float, float, float]:
    if not np.isfinite(bounds).all():
        return (0.0, 0.0, 0.0, 0.0)
    left, front, right, back = (round(float(value), 6) for value in bounds)
    return left, front, right, back


@njit(cache=True, nogil=True)
def _ends_mm(first, places, unit_mm):  # type: ignore[no-untyped-def]
    """Return where moves begin and end in mm, from where the first begins."""
    out = np.zeros(places.size + 1)
    out[0] = first
    for i in range(places.size):
        out[i + 1] = places[i] * unit_mm
    return out


@njit(cache=True, nogil=True)
def _widen(x, y, power, bounds, burned):  # type: ignore[no-untyped-def]
    """Widen the bounds to where moves go, and to where they burn."""
    for i in range(power.size):
        on = power[i] > 0
        # Up and down alone it goes nowhere: not to where it happens to stand at first.
        if on or x[i + 1] != x[i] or y[i + 1] != y[i]:
            _take_in(bounds, x[i + 1], y[i + 1])
        if on:
            _take_in(burned, x[i], y[i])
            _take_in(burned, x[i + 1], y[i + 1])


@njit(cache=True, nogil=True)
def _take_in(bounds, x, y):  # type: ignore[no-untyped-def]
    bounds[0], bounds[1] = min(bounds[0], x), min(bounds[1], y)
    bounds[2], bounds[3] = max(bounds[2], x), max(bounds[3], y)


@njit(cache=True, nogil=True)
def _long(path, i):  # type: ignore[no-untyped-def]
    """Return how long move i is."""
    x, y, z = path
    dx, dy = x[i + 1] - x[i], y[i + 1] - y[i]
    if z.size == 0:
        return np.sqrt(dx * dx + dy * dy)
    dz = z[i + 1] - z[i]
    return np.sqrt(dx * dx + dy * dy + dz * dz)


@njit(cache=True, nogil=True)
def _corner(path, i, corner):  # type: ignore[no-untyped-def]
    """Return the square of the speed between move i - 1 and move i."""
    x, y, z = path
    ax, ay, az, deviation = corner
    first, second = _long(path, i - 1), _long(path, i)
    if first == 0 or second == 0:
        return 0.0
    ux, uy = (x[i] - x[i - 1]) / first, (y[i] - y[i - 1]) / first
    vx, vy = (x[i + 1] - x[i]) / second, (y[i + 1] - y[i]) / second
    uz, vz = 0.0, 0.0
    if z.size > 0:
        uz, vz = (z[i] - z[i - 1]) / first, (z[i + 1] - z[i]) / second
    cosine = ux * vx + uy * vy + uz * vz
    if deviation <= 0:
        return np.inf if cosine >= _STRAIGHT else 0.0
    half = np.sqrt(max(0.5 * (1 + cosine), 0.0))
    if half >= 1 - 1e-12:
        return np.inf
    # The turn speeds the head up towards the corner's inside.
    dx, dy, dz = vx - ux, vy - uy, vz - uz
    slow = (dx / ax) ** 2 + (dy / ay) ** 2 + (dz / az) ** 2
    able = np.sqrt(dx * dx + dy * dy + dz * dz) / np.sqrt(slow)
    return able * deviation * half / (1 - half)


@njit(cache=True, nogil=True)
def _hold_in_sight(path, along, ahead, junction):  # type: ignore[no-untyped-def]
    """Lower junction speeds (squared) to let the head stop within the moves planned."""
    n = along.size
    seen, first, last = 0.0, 0, 0
    for i in range(n):
        # `seen` sums 2·a·x over moves first to last, the ones behind move i.
        first = i + 1
        while last < min(n, i + ahead):
            seen += 2 * along[last] * _long(path, last) if last >= first else 0.0
            last += 1
        junction[first] = min(junction[first], seen)
        if first < n:
            seen = max(seen - 2 * along[first] * _long(path, first), 0.0)


@njit(cache=True, nogil=True)
def _time_moves(path, speed, rapid, power, along, corner, ahead, sums, each):  # type: ignore[no-untyped-def]
    """Plan junction speeds (squared) backward, then add up forward."""
    n = speed.size
    x, y, z = path
    flat = z.size == 0
    junction, lengths = np.zeros(n + 1), np.zeros(n)
    for i in range(n - 1, -1, -1):
        in_row = flat and y[i] == y[i + 1]
        long = abs(x[i + 1] - x[i]) if in_row else _long(path, i)
        lengths[i] = long
        if i == 0:
            break
        slower = min(speed[i - 1], speed[i])
        able = slower * slower
        if in_row and y[i - 1] == y[i]:
            # Along a row: straight on, or back.
            if not (x[i] - x[i - 1]) * (x[i + 1] - x[i]) > 0:
                able = 0.0
        else:
            able = min(able, _corner(path, i, corner))
        junction[i] = min(able, junction[i + 1] + 2 * along[i] * long)
    if ahead > 0:
        _hold_in_sight(path, along, ahead, junction)
    burn_s, slow_s, rapid_s, burned, passed = sums[0], sums[1], sums[2], sums[3], sums[4]
    for i in range(n):
        a, length = along[i], lengths[i]
        junction[i + 1] = min(junction[i + 1], junction[i] + 2 * a * length)
        top = speed[i] * speed[i]
        if junction[i] == top and junction[i + 1] == top and top > 0:
            seconds = length / speed[i]  # all of it at one speed, as in the middle of a row
        else:
            peak = min(top, 0.5 * (junction[i] + junction[i + 1]) + a * length)
            ramps = (2 * peak - junction[i] - junction[i + 1]) / (2 * a)
            fast = np.sqrt(peak)
            seconds = (2 * fast - np.sqrt(junction[i]) - np.sqrt(junction[i + 1])) / a
            if fast > 0:
                seconds += max(length - ramps, 0.0) / fast
        each[i] = seconds
        if power[i] > 0:
            burn_s += seconds
            burned += length
        else:
            if rapid[i]:
                rapid_s += seconds
            else:
                slow_s += seconds
            passed += length
    sums[0], sums[1], sums[2], sums[3], sums[4] = burn_s, slow_s, rapid_s, burned, passed
    sums[5] += n
