"""Rows of dots to moves.

A run of dots is burned from its first dot's left edge to its last dot's right
edge, on the row's centre line. Blank rows are skipped, margins are not
travelled at engraving speed, and a blank inside a row that is long enough to
save time is crossed by a rapid move in the same direction, which begins and
ends at engraving speed.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots import BitGrid
from engraving.place import frame_of
from engraving.recipe import run_up_mm
from engraving.spec import JobSpec
from engraving.toolpath.moves import Moves

BAND_ROWS = 256
_LEAST_SAVING_S = 0.01


@dataclass(frozen=True)
class RasterPath:
    """Geometry and settings of a raster burn; lengths mm, in the machine's frame.

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
    decimals: int

    @property
    def unit_mm(self) -> float:
        """Millimetres of one output unit."""
        return 10.0**-self.decimals


def plan_raster(spec: JobSpec) -> RasterPath:
    """Return the raster path of a job; rows are burned from the back forward."""
    frame = frame_of(spec.machine)
    pitch = spec.size.pitch_mm
    back = spec.place.y_mm + spec.size.rows * pitch
    left, first_row = frame.to_machine(spec.place.x_mm, back - pitch / 2)
    return RasterPath(
        left_mm=left,
        step_x_mm=frame.sign_x * spec.size.along_mm,
        first_row_mm=first_row,
        step_y_mm=-frame.sign_y * pitch,
        run_up_mm=run_up_mm(spec.burn.speed_mm_s, spec.machine.acceleration_mm_s2),
        speed_mm_s=spec.burn.speed_mm_s,
        power=round(spec.burn.power / 100 * spec.machine.s_max),
        passes=spec.burn.passes,
        both_ways=spec.burn.both_ways,
        gap_cols=_worthwhile_gap(spec),
        decimals=spec.machine.decimals,
    )


def _worthwhile_gap(spec: JobSpec) -> int:
    """Return the shortest blank, in columns, where a rapid move saves time.

    Over a length L the head speeds up from v to √(v² + a·L), at most the
    rapid speed, and slows down again.
    """
    v, rapid = spec.burn.speed_mm_s, spec.machine.rapid_mm_s
    a = spec.machine.acceleration_mm_s2
    if rapid <= v:
        return 1 << 30
    for cols in range(1, 1 << 16):
        length = cols * spec.size.along_mm
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
    for _ in range(path.passes):
        for top in range(0, bits.rows, BAND_ROWS):
            band = bits.packed[top : top + BAND_ROWS]
            moves = _record_band(band, bits.cols, top, path, state)
            if len(moves):
                yield moves


def _record_band(
    band: NDArray[np.uint8],
    cols: int,
    top: int,
    path: RasterPath,
    state: NDArray[np.int64],
) -> Moves:
    scale = 10.0**path.decimals
    columns = _units(path.left_mm + np.arange(cols + 1) * path.step_x_mm, scale)
    rows = _units(path.first_row_mm + (top + np.arange(len(band))) * path.step_y_mm, scale)
    reach = math.ceil(path.run_up_mm * scale) * (1 if path.step_x_mm > 0 else -1)
    edges = np.zeros(cols + 2, np.int32)
    most = _count_edges(band, cols, edges) * 2 + 4 * len(band)
    x, y, power = (np.zeros(most, np.int32) for _ in range(3))
    feed = np.zeros(most, np.float32)
    used = _fill_band(
        band,
        columns,
        rows,
        edges,
        (x, y, power, feed),
        (path.power, path.speed_mm_s * 60, reach, path.gap_cols, path.both_ways),
        state,
    )
    return Moves(x[:used], y[:used], power[:used], feed[:used], path.unit_mm)


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
def _count_edges(band, cols, edges):  # type: ignore[no-untyped-def]
    total = 0
    for i in range(band.shape[0]):
        total += _row_edges(band[i], cols, edges)
    return total


@njit(cache=True, nogil=True)
def _fill_band(band, columns, rows, edges, moves, settings, state):  # type: ignore[no-untyped-def]
    """Write the moves of a band; returns how many. `state` counts burned rows."""
    x, y, power, feed = moves
    strength, speed, reach, gap, both_ways = settings
    n = 0
    for i in range(band.shape[0]):
        count = _row_edges(band[i], columns.size - 1, edges)
        if count == 0:
            continue
        backward = both_ways and state[0] % 2 == 1
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
