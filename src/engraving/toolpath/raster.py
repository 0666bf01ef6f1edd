"""Rows of dots to moves.

A run of dots is burned from its first dot's left edge to its last dot's right
edge, on the row's centre line. Blank rows are skipped, margins are not
travelled at engraving speed, and a blank inside a row that is long enough to
save time is crossed by a rapid move in the same direction, which begins and
ends at engraving speed.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots import BitGrid
from engraving.dots.power import FULL
from engraving.jobspec import JobSpec
from engraving.place import frame_of
from engraving.recipe import row_shift_mm, run_up_mm
from engraving.toolpath.moves import Moves
from engraving.units import MM_PER_INCH

BAND_ROWS = 64
_LEAST_SAVING_S = 0.01
_ONES = np.array([byte.bit_count() for byte in range(256)], np.int64)


@dataclass(frozen=True)
class RasterPath:
    """Geometry and settings of a raster burn; lengths mm, in the machine's frame.

    Where rows run along Y, x and y change places here and in the grid, and
    back again in the moves.

    Attributes
    ----------
    left_mm : float
        x of column 0's left edge.
    step_x_mm : float
        x from one column to the next; negative where the axis runs left.
    first_row_mm : float
        y of row 0's centre line.
    step_y_mm : float
        y from one row to the next.
    gap_cols : int
        Blanks of at least this many columns are crossed by a rapid move.
    shift_mm : float
        How far rows burned backward are moved along the axis.
    turned : bool
        Rows run along Y.
    z_mm : float
        Height of the focus above the surface.
    """

    left_mm: float
    step_x_mm: float
    first_row_mm: float
    step_y_mm: float
    run_up_mm: float
    speed_mm_s: float
    power: int
    passes: int
    both_ways: bool
    gap_cols: int
    unit_mm: float
    shift_mm: float = 0.0
    turned: bool = False
    z_mm: float = 0.0

    def moved_along(self, columns: int) -> "RasterPath":
        """Return the path of a grid that begins so many columns later."""
        if not columns:
            return self
        if self.turned:
            return replace(self, first_row_mm=self.first_row_mm + columns * self.step_y_mm)
        return replace(self, left_mm=self.left_mm + columns * self.step_x_mm)


def plan_raster(spec: JobSpec) -> tuple[RasterPath, ...]:
    """Return the raster paths of a job: one, or two where rows are crossed.

    Rows along X are burned from the back forward, rows along Y from the left.
    """
    first = spec.burn.rows == "y"
    ways = (first, not first) if spec.burn.cross else (first,)
    return tuple(_plan(spec, turned) for turned in ways)


def _plan(spec: JobSpec, turned: bool) -> RasterPath:
    frame, burn, machine = frame_of(spec.machine), spec.burn, spec.machine
    along, pitch = spec.size.cell_mm
    # The piece may lie turned, and its rows with it.
    acceleration = machine.acceleration_along(spec.place.turn_deg + 90 * turned)
    back = spec.place.y_mm + spec.size.rows * pitch
    if turned:
        first_row, left = frame.to_machine(spec.place.x_mm + along / 2, back)
        step_x, step_y = -frame.sign_y * pitch, frame.sign_x * along
    else:
        left, first_row = frame.to_machine(spec.place.x_mm, back - pitch / 2)
        step_x, step_y = frame.sign_x * along, -frame.sign_y * pitch
    return RasterPath(
        left_mm=left,
        step_x_mm=step_x,
        first_row_mm=first_row,
        step_y_mm=step_y,
        run_up_mm=run_up_mm(burn.speed_mm_s, acceleration),
        speed_mm_s=burn.speed_mm_s,
        power=round(burn.power / 100 * machine.s_max),
        passes=burn.passes,
        both_ways=burn.both_ways,
        gap_cols=_worthwhile_gap(spec, abs(step_x), acceleration),
        unit_mm=10.0**-machine.decimals * (MM_PER_INCH if machine.inches else 1.0),
        shift_mm=row_shift_mm(machine.row_shift, burn.speed_mm_s),
        turned=turned,
        z_mm=burn.focus_mm if machine.z_axis else 0.0,
    )


def _worthwhile_gap(spec: JobSpec, along_mm: float, a: float) -> int:
    """Return the shortest blank, in columns, where a rapid move saves time.

    Over a length L the head speeds up from v to √(v² + a·L), at most the
    rapid speed, and slows down again.
    """
    v, rapid = spec.burn.speed_mm_s, spec.machine.rapid_mm_s
    if rapid <= v:
        return 1 << 30
    for cols in range(1, 1 << 16):
        length = cols * along_mm
        peak = min(rapid, math.sqrt(v * v + a * length))
        ramps = (peak * peak - v * v) / a
        seconds = 2 * (peak - v) / a + max(length - ramps, 0) / peak
        if length / v - seconds >= _LEAST_SAVING_S:
            return cols
    return 1 << 30


def record(bits: BitGrid, path: RasterPath) -> Iterator[Moves]:
    """Yield the moves of all passes, in bands of whole rows.

    Every row ends at rest, so a band may be timed on its own, given where
    the one before it ended.
    """
    state = np.zeros(1, np.int64)
    if path.turned:
        bits = bits.transposed()
    for _ in range(path.passes):
        for top in range(0, bits.rows, BAND_ROWS):
            moves = _record_band(bits, top, path, state)
            if len(moves):
                yield moves


def _record_band(
    bits: BitGrid, top: int, path: RasterPath, state: NDArray[np.int64]
) -> Moves:
    band, cols = bits.packed[top : top + BAND_ROWS], bits.cols
    scale = 1 / path.unit_mm
    ahead = path.left_mm + np.arange(cols + 1) * path.step_x_mm
    columns = np.stack([_units(ahead + shift, scale) for shift in (0.0, path.shift_mm)])
    rows = _units(path.first_row_mm + (top + np.arange(len(band))) * path.step_y_mm, scale)
    reach = math.ceil(path.run_up_mm * scale) * (1 if path.step_x_mm > 0 else -1)
    feed_mm_min, gap = path.speed_mm_s * 60, path.gap_cols
    if bits.power is None:
        edges = np.zeros(cols + 2, np.int32)
        moves = _room(_count_edges(band) * 2 + 4 * len(band))
        full = path.power, feed_mm_min, reach, gap, path.both_ways
        used = _fill_band(band, columns, rows, edges, moves, full, state)
    else:
        strong = bits.power[top : top + BAND_ROWS]
        words = np.rint(np.arange(FULL + 1) / FULL * path.power).astype(np.int32)
        moves = _room(int((np.diff(strong, axis=1) != 0).sum()) + 5 * len(strong))
        ways = feed_mm_min, reach, gap, path.both_ways
        used = _fill_power_band(strong, words, columns, rows, moves, ways, state)
    x, y, power, feed = moves
    burned = _count_burned(y[:used], power[:used])
    if path.turned:
        x, y = y, x
    return Moves(
        x[:used], y[:used], power[:used], feed[:used], path.unit_mm, path.z_mm,
        rows=burned,
    )  # fmt: skip


def _room(
    most: int,
) -> tuple[NDArray[np.int32], NDArray[np.int32], NDArray[np.int32], NDArray[np.float32]]:
    """Return x, y, power and feed for at most so many moves."""
    x, y, power = (np.zeros(most, np.int32) for _ in range(3))
    return x, y, power, np.zeros(most, np.float32)


def _units(values_mm: NDArray[Any], scale: float) -> NDArray[np.int32]:
    return np.floor(values_mm * scale + 0.5).astype(np.int32)


@njit(cache=True, nogil=True)
def _row_edges(row, cols, edges):  # type: ignore[no-untyped-def]
    """List the columns where a packed row changes; returns how many (even)."""
    count = 0
    before = 0
    for i in range(row.size):
        byte = row[i]
        if byte == 0 and before == 0:
            continue
        if byte == 255 and before == 1 and 8 * i + 8 <= cols:
            continue
        for k in range(8):
            bit = (byte >> (7 - k)) & 1
            if bit != before:
                edges[count] = 8 * i + k
                count += 1
                before = bit
    if before == 1:
        edges[count] = cols
        count += 1
    return count


@njit(cache=True, nogil=True)
def _count_burned(y, power):  # type: ignore[no-untyped-def]
    """Return how many rows are burned of moves that make them one after the other."""
    total, last = 0, 0
    for i in range(y.size):
        if power[i] > 0:
            total += total == 0 or y[i] != last
            last = y[i]
    return total


@njit(cache=True, nogil=True)
def _count_edges(band):  # type: ignore[no-untyped-def]
    """Return how many edges `_row_edges` finds in all, from whole bytes."""
    total = 0
    for i in range(band.shape[0]):
        before = 0
        for byte in band[i]:
            total += _ONES[byte ^ ((byte >> 1) | (before << 7))]
            before = byte & 1
        total += before
    return total


@njit(cache=True, nogil=True)
def _fill_band(band, both, rows, edges, moves, settings, state):  # type: ignore[no-untyped-def]
    """Write the moves of a band; returns how many. `state` counts burned rows.

    `both` are the columns' edges of rows burned forward and backward.
    """
    x, y, power, feed = moves
    strength, speed, reach, gap, both_ways = settings
    n = 0
    for i in range(band.shape[0]):
        count = _row_edges(band[i], both.shape[1] - 1, edges)
        if count == 0:
            continue
        backward = both_ways and state[0] % 2 == 1
        columns = both[1 if backward else 0]
        state[0] += 1
        sign = -1 if backward else 1
        at = count - 1 if backward else 0
        # To the start of the run-up, at rapid speed.
        x[n] = columns[edges[at]] - sign * reach
        y[n] = rows[i]
        n += 1
        for q in range(0, count, 2):
            x[n] = columns[edges[at]]
            y[n] = rows[i]
            crossed = q > 0 and abs(edges[at] - edges[at - sign]) >= gap
            feed[n] = 0 if crossed else speed
            n += 1
            at += sign
            x[n] = columns[edges[at]]
            y[n] = rows[i]
            power[n] = strength
            feed[n] = speed
            n += 1
            at += sign
        x[n] = columns[edges[at - sign]] + sign * reach
        y[n] = rows[i]
        feed[n] = speed
        n += 1
    return n


@njit(cache=True, nogil=True)
def _fill_power_band(strong, words, both, rows, moves, settings, state):  # type: ignore[no-untyped-def]
    """Write the moves of a band of dots of different power; returns how many."""
    x, y, power, feed = moves
    speed, reach, gap, both_ways = settings
    cols = strong.shape[1]
    n = 0
    for i in range(strong.shape[0]):
        row = strong[i]
        first, last = 0, cols
        while first < cols and row[first] == 0:
            first += 1
        if first == cols:
            continue
        while row[last - 1] == 0:
            last -= 1
        backward = both_ways and state[0] % 2 == 1
        columns = both[1 if backward else 0]
        state[0] += 1
        sign = -1 if backward else 1
        at, end = (last, first) if backward else (first, last)
        x[n], y[n] = columns[at] - sign * reach, rows[i]
        x[n + 1], y[n + 1], feed[n + 1] = columns[at], rows[i], speed
        n += 2
        while at != end:
            own = row[at - 1] if backward else row[at]
            start = at
            while at != end and (row[at - 1] if backward else row[at]) == own:
                at += sign
            x[n], y[n], power[n] = columns[at], rows[i], words[own]
            feed[n] = 0 if own == 0 and abs(at - start) >= gap else speed
            n += 1
        x[n], y[n], feed[n] = columns[end] + sign * reach, rows[i], speed
        n += 1
    return n
