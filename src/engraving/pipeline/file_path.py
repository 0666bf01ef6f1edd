"""A tool path from a file that no job made: looked at, placed, written anew."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from engraving.errors import JobError
from engraving.gcode import read_moves
from engraving.jobspec import JobSpec, MachinePart, ToolPart
from engraving.motion import Clock, Estimate, clock_of
from engraving.pipeline.pathmap import Looked
from engraving.pipeline.starts import Starts, write_with_starts
from engraving.place import as_written
from engraving.toolpath import Moves
from engraving.units import MM_PER_INCH

Opener = Callable[[], BinaryIO]
Values = NDArray[np.floating]

_MOST_MOVES = 30_000_000
_SLICE, _MOST_POINTS = 1 << 16, 4000


@dataclass(frozen=True)
class Placing:
    """Where a file's path lies on a machine, and how strong it burns.

    Attributes
    ----------
    x_mm, y_mm : float
        By how much it is moved along the machine's axes.
    times : float
        What its power words are multiplied by.
    """

    x_mm: float = 0.0
    y_mm: float = 0.0
    times: float = 1.0


@dataclass(frozen=True)
class FileLook:
    """What a file's path comes to on a machine.

    Attributes
    ----------
    estimate : Estimate
        Time, extent, rows.
    most_power : int
        Its largest power word, as it stands in the file.
    slowest_mm_s, fastest_mm_s : float
        Between these it burns.
    """

    estimate: Estimate
    most_power: int
    slowest_mm_s: float
    fastest_mm_s: float


def look_at(opened: Opener, machine: MachinePart, placing: Placing) -> FileLook:
    """Return what a file's path comes to.

    Parameters
    ----------
    opened : callable
        Opens the file.
    machine : MachinePart
        Which it is to run on.
    placing : Placing

    Raises
    ------
    JobError
        When a line cannot be understood, nothing is burned, or there are more than
        thirty million moves.
    """
    clock = _clock(machine)
    most, feeds = 0, [float("inf"), 0.0]
    for moves in _placed(opened, machine, Placing(placing.x_mm, placing.y_mm)):
        clock.add(moves)
        lit = moves.power > 0
        if not lit.any():
            continue
        most = max(most, int(moves.power.max()))
        at = moves.feed[lit & (moves.feed > 0)] / 60
        if at.size:
            feeds = [min(feeds[0], float(at.min())), max(feeds[1], float(at.max()))]
    if not most:
        raise JobError("Nothing is burned by this file: no move in it has the beam on.")
    slowest = feeds[0] if np.isfinite(feeds[0]) else 0.0
    return FileLook(clock.estimate(), most, slowest, feeds[1])


def burn_map(
    opened: Opener, machine: MachinePart, placing: Placing, looked: Looked
) -> NDArray[np.float32]:
    """Return where a file's beam goes, in full-power seconds a pixel, row 0 the highest y.

    Parameters
    ----------
    looked : Looked
        A window of the machine's plane.
    """
    scale = np.array([looked.cols / looked.width, looked.rows / looked.height])
    out = np.zeros(looked.rows * looked.cols)
    at: Values = np.zeros((1, 2))
    for moves in _placed(opened, machine, placing):
        ends = np.stack([moves.x, moves.y], axis=1) * moves.unit_mm
        for first in range(0, len(ends), _SLICE):
            part = slice(first, first + _SLICE)
            begins = np.vstack([at, ends[part][:-1]])
            at = ends[part][-1:]
            lit = (moves.power[part] > 0) & (moves.feed[part] > 0)
            share = moves.power[part][lit] / machine.s_max
            first_ends, last_ends = begins[lit], ends[part][lit]
            seconds = 60 * np.hypot(*(last_ends - first_ends).T) / moves.feed[part][lit]
            out += _spread(first_ends, last_ends, share * seconds, scale, looked)
    return out.reshape(looked.rows, looked.cols).astype(np.float32)


def _spread(
    begins: Values, ends: Values, energy: Values, scale: Values, looked: Looked
) -> Values:
    """Return the pixels that lines share their energy among, by points along them."""
    corner = np.array([looked.left, looked.front])
    first, last = (begins - corner) * scale, (ends - corner) * scale
    count = (
        np.minimum(np.abs(last - first).max(axis=1, initial=0).astype(int), _MOST_POINTS)
        + 1
    )
    of = np.repeat(np.arange(len(count)), count)
    share = (np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count) + 0.5) / count[
        of
    ]
    points = first[of] + share[:, None] * (last - first)[of]
    cols, rows = np.floor(points).astype(int).T
    rows = looked.rows - 1 - rows
    inside = (cols >= 0) & (cols < looked.cols) & (rows >= 0) & (rows < looked.rows)
    place = rows[inside] * looked.cols + cols[inside]
    found = np.bincount(
        place, (energy / count)[of][inside], minlength=looked.rows * looked.cols
    )
    return np.asarray(found, np.float64)


def write_file(
    opened: Opener, machine: MachinePart, placing: Placing, target: BinaryIO, name: str
) -> Starts:
    """Write a file's path anew, as its machine wants it; return where its rows begin."""
    spec = _neutral(machine)
    bands = _placed(opened, machine, placing)
    remarks = ["A file opened in Old Ember, placed and written anew", f"file: {name}"]
    return write_with_starts(spec, bands, _clock(machine), target, remarks)


def _neutral(machine: MachinePart) -> JobSpec:
    return JobSpec(machine=machine)


def _clock(machine: MachinePart) -> Clock:
    return clock_of(_neutral(machine))


def _placed(opened: Opener, machine: MachinePart, placing: Placing) -> Iterator[Moves]:
    """Yield a file's moves where they are to lie, in the units the machine is told in."""
    # As finely as it is written.
    finest = as_written(_neutral(machine)).machine.decimals
    unit = 10.0**-finest * (MM_PER_INCH if machine.inches else 1.0)
    count = 0
    with opened() as stream:
        for moves in read_moves(stream):
            count += len(moves)
            if count > _MOST_MOVES:
                raise JobError(
                    "This file has more than thirty million moves; write it in several."
                )
            ends = np.stack([moves.x, moves.y]) * moves.unit_mm
            x, y = (ends + np.array([[placing.x_mm], [placing.y_mm]])) / unit
            power = np.rint(moves.power * placing.times)
            high, turns = None, 0
            if moves.z is not None and machine.touches:
                high = np.rint(moves.z * (moves.unit_mm / unit)).astype(np.int32)
            if machine.kind == "vtool":
                # Its power words are how fast the spindle turns.
                turns = int(moves.power.max(initial=0)) or ToolPart().spindle_rpm
                power = np.minimum(moves.power, 1)
            yield replace(
                moves,
                z=high,
                spindle_rpm=turns,
                warm_up_s=ToolPart().warm_up_s if turns else 0.0,
                x=np.floor(x + 0.5).astype(np.int32),
                y=np.floor(y + 0.5).astype(np.int32),
                power=np.clip(power, 0, machine.s_max).astype(np.int32),
                unit_mm=unit,
            )
