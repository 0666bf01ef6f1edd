"""Strokes of a tool that touches to moves: across above the surface, down, along, up."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import MachinePart, ToolPart
from engraving.place import frame_of
from engraving.toolpath.moves import Moves
from engraving.units import MM_PER_INCH

Stroke = NDArray[np.float64]
"""Points of a stroke, shape (n, 3), mm: from the bed's front left corner, and height."""

NEAR_MM = 0.5
"""So far above the surface a tool still travels down quickly."""
_BAND_POINTS = 200_000
_LEVEL_MM = 1e-6


@dataclass(frozen=True)
class ToolRun:
    """How a tool is moved.

    Attributes
    ----------
    feed_mm_s : float
        Along a stroke.
    plunge_mm_s : float
        Downward at most.
    tool : ToolPart, optional
        What turns in the spindle; none for a drag point.
    """

    feed_mm_s: float
    plunge_mm_s: float
    tool: ToolPart | None = None


def record_tool(
    strokes: Sequence[Stroke], machine: MachinePart, run: ToolRun
) -> Iterator[Moves]:
    """Yield the moves of strokes in the order given, in bands of whole strokes.

    Each begins and ends lifted. Heights are 0 at the surface, down negative.
    """
    first = 0
    while first < len(strokes):
        end, points = first, 0
        while end < len(strokes) and (end == first or points < _BAND_POINTS):
            points += len(strokes[end])
            end += 1
        yield _band(strokes[first:end], machine, run)
        first = end


def _band(strokes: Sequence[Stroke], machine: MachinePart, run: ToolRun) -> Moves:
    count = np.array([len(one) for one in strokes])
    where = np.concatenate(strokes)
    lift, near = machine.lift_mm, min(NEAR_MM, machine.lift_mm)
    # Of each stroke: across, near, its points, up.
    begin = np.concatenate([[0], np.cumsum(count + 3)])[:-1]
    whole = int((count + 3).sum())
    own = np.ones(whole, bool)
    own[begin] = own[begin + 1] = own[begin + count + 2] = False
    points = np.zeros((whole, 3))
    points[own] = where
    heads, tails = np.cumsum(count) - count, np.cumsum(count) - 1
    points[begin] = points[begin + 1] = where[heads]
    points[begin + count + 2] = where[tails]
    points[begin, 2] = points[begin + count + 2, 2] = lift
    points[begin + 1, 2] = near
    down = np.maximum(-np.diff(points[:, 2], prepend=lift), 0.0)
    long = np.sqrt((np.diff(points, axis=0, prepend=points[:1]) ** 2).sum(axis=1))
    steep = down > _LEVEL_MM
    slow = np.where(steep, run.plunge_mm_s * long / np.where(steep, down, 1), np.inf)
    feed = np.where(own, np.minimum(run.feed_mm_s, slow), 0.0) * 60
    return _moves(points, own, feed, machine, run.tool)


def _moves(
    points: NDArray[np.float64],
    own: NDArray[np.bool_],
    feed: NDArray[np.float64],
    machine: MachinePart,
    tool: ToolPart | None,
) -> Moves:
    frame = frame_of(machine)
    unit = 10.0**-machine.decimals * (MM_PER_INCH if machine.inches else 1.0)
    x = frame.offset_x + frame.sign_x * points[:, 0]
    y = frame.offset_y + frame.sign_y * points[:, 1]
    units = [np.floor(one / unit + 0.5).astype(np.int32) for one in (x, y, points[:, 2])]
    # Feeds of tenths of a mm a minute are as exact as any, and short to write.
    tenths = (np.ceil(feed * 10 - 1e-6) / 10).astype(np.float32)
    strokes = int(np.count_nonzero(own[1:] & ~own[:-1]))
    return Moves(
        units[0], units[1], own.astype(np.int32), tenths, unit, z=units[2], rows=strokes,
        tool=tool.name if tool else "",
        spindle_rpm=tool.spindle_rpm if tool else 0,
        warm_up_s=tool.warm_up_s if tool else 0.0,
    )  # fmt: skip


def above(moves: Moves, height_mm: float) -> Moves:
    """Return a tool's moves at one height, where it marks nothing."""
    high = np.full(len(moves), round(height_mm / moves.unit_mm), np.int32)
    return replace(moves, z=high, power=np.zeros(len(moves), np.int32))
