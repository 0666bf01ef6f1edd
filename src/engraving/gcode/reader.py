"""Read G-code back into moves: enough of RS-274 for engraving files.

Understood (Kramer, Proctor & Messina 2000, NISTIR 6556): G0 G1 G2 G3 G17 G20 G21
G90 G91 G90.1 G91.1 G94, M2 M3 M4 M5 M30, X Y Z A S F N I J R, comments in
parentheses and after a semicolon. Unknown M words are passed over. Arcs lie in the XY
plane, by centre or by radius, and become short lines; Z rises evenly along them. A turns
a piece under the beam: its degrees are moves along the surface.
"""

import base64
import binascii
import math
import zlib
from collections.abc import Iterator
from dataclasses import replace
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from engraving.errors import JobError
from engraving.gcode.parse import COLUMNS, FAULTS, RADIUS, STATE, TURN, A, Z, parse
from engraving.gcode.writer import JOB_MARK
from engraving.jobspec import JobSpec
from engraving.place import written_per_mm
from engraving.toolpath import Moves

_UNIT_MM = 1e-5
_FARTHEST_MM = 20_000.0
_CHUNK = 1 << 22
_HEAD = 1 << 20
_MOST_BAND = 1 << 22
_TURNS_OFF = 0.9
_BEND_DEG = 2.0
"""An arc's lines bend by no more, so that none of its points is a corner."""


def read_moves(
    source: bytes | BinaryIO, surface_mm: float | None = None, *, arc_mm: float = 0.0
) -> Iterator[Moves]:
    """Yield the moves of a G-code file, in bands that end at rest.

    Parameters
    ----------
    source : bytes or binary stream
        The file; a stream is read piece by piece.
    surface_mm : float, optional
        mm of surface to one degree of A. Without it, as the job in the file's
        comments has it, or else each degree is taken for a mm.
    arc_mm : float
        How far the lines of an arc may lie beside it; 0: so near that none of
        their ends is a corner.

    Raises
    ------
    JobError
        When a line cannot be understood; the message gives its number. When it goes
        farther than twenty metres.
    """
    state = np.zeros(len(STATE))
    state[STATE.index("scale")] = 1.0
    line, kept = 0, _nothing()
    for text in _pieces(source):
        if surface_mm is None:
            surface_mm = _surface_mm(text)
        done, kept = _rested(kept)
        if len(done):
            yield done
        begun = state[[STATE.index(name) for name in ("x", "y", "a", "z")]]
        found, lines = _read_piece(text, state, line)
        line += lines
        deep = state[STATE.index("deep")] > 0
        kept = _joined(kept, _flat(found, begun, surface_mm, arc_mm), deep=deep)
    if len(kept):
        yield kept


def _pieces(source: bytes | BinaryIO) -> Iterator[bytes]:
    """Yield a file in pieces of whole lines."""
    if isinstance(source, bytes):
        begun = 0
        while begun < len(source):
            end = source.find(b"\n", begun + _CHUNK) + 1 or len(source)
            yield source[begun:end]
            begun = end
        return
    while text := source.read(_CHUNK):
        yield text + source.readline()


def _surface_mm(head: bytes) -> float:
    """Return how much of a wall a degree of A turns past, as the file's job says."""
    if b"A" not in head:
        return 1.0
    job = read_job(head)
    if job is None or not job.mount.rotary or job.mount.output != "degrees":
        return 1.0
    return 1 / abs(written_per_mm(job))


_Found = tuple[NDArray[np.float64], NDArray[np.int32], NDArray[np.float32]]


def _read_piece(text: bytes, state: NDArray[np.float64], line: int) -> tuple[_Found, int]:
    """Return ends and arcs (n, 8), powers and feeds of a piece, and its lines."""
    data = np.frombuffer(text, np.uint8)
    lines = int(np.count_nonzero(data == ord("\n"))) + 1
    ends = np.zeros((lines, COLUMNS))
    power, feed = np.zeros(lines, np.int32), np.zeros(lines, np.float32)
    count, fault, at = parse(data, state, ends, power, feed)
    if fault:
        raise JobError(f"Line {line + at} of the G-code has {FAULTS[fault]}.")
    return (ends[:count], power[:count], feed[:count]), lines - 1


def _nothing() -> Moves:
    none = np.zeros(0, np.int32)
    return Moves(none, none, none, np.zeros(0, np.float32), _UNIT_MM)


def _flat(
    found: _Found, begun_at: NDArray[np.float64], surface_mm: float, arc_mm: float
) -> Moves:
    """Return moves with arcs as lines, and the turning of a wall as moves along it."""
    ends, power, feed = found
    count = np.where(ends[:, TURN] != 0, _steps(ends, arc_mm), 1)
    of = np.repeat(np.arange(len(ends)), count)
    share = (np.arange(len(of)) - np.repeat(np.cumsum(count) - count, count) + 1) / count[
        of
    ]
    x, y, a, cx, cy, turn, radius, begun, z = ends[of].T
    arc = (turn != 0) & (share < 1)
    angle = begun + turn * share
    x = np.where(arc, cx + radius * np.cos(angle), x)
    y = np.where(arc, cy + radius * np.sin(angle), y) + a * surface_mm
    feed = feed[of]
    if (turn != 0).any():
        below = np.concatenate([begun_at[3:], ends[:-1, Z]])[of]
        z = below + share * (z - below)
    if surface_mm != 1:
        # Where A moves alone, its feed is in degrees.
        before = np.vstack([begun_at[:3], ends[:-1, : A + 1]])
        alone = (ends[:, A] != before[:, A]) & (ends[:, :A] == before[:, :A]).all(axis=1)
        feed = np.where(alone[of], feed * np.float32(surface_mm), feed)
    return Moves(_units(x), _units(y), power[of], feed, _UNIT_MM, z=_units(z))


def _units(values_mm: NDArray[np.float64]) -> NDArray[np.int32]:
    # Beyond what fits, places would wrap round without a word.
    if not (np.abs(values_mm) <= _FARTHEST_MM).all():
        raise JobError(f"The G-code goes farther than {_FARTHEST_MM / 1000:g} m.")
    return np.floor(values_mm / _UNIT_MM + 0.5).astype(np.int32)


def _steps(ends: NDArray[np.float64], off_mm: float) -> NDArray[np.int64]:
    """Return in how many lines each arc is divided."""
    bend = np.full(len(ends), math.radians(_BEND_DEG))
    radius = np.maximum(ends[:, RADIUS], 1e-9)
    if off_mm > 0:
        bend = 2 * np.arccos(np.clip(1 - off_mm / radius, -1, 1))
    steps = np.ceil(np.abs(ends[:, TURN]) / np.maximum(bend, 1e-3))
    return np.asarray(np.maximum(steps, 1), np.int64)


def _joined(first: Moves, second: Moves, *, deep: bool) -> Moves:
    """Return moves together; heights only where the file has named any."""
    if not len(first):
        return second if deep else replace(second, z=None)
    heights = None
    if deep and second.z is not None:
        before = np.zeros_like(first.x) if first.z is None else first.z
        heights = np.concatenate([before, second.z])
    return Moves(
        np.concatenate([first.x, second.x]),
        np.concatenate([first.y, second.y]),
        np.concatenate([first.power, second.power]),
        np.concatenate([first.feed, second.feed]),
        _UNIT_MM,
        z=heights,
    )


def _rested(moves: Moves) -> tuple[Moves, Moves]:
    """Return moves up to the last that ends at rest, and the rest of them.

    Where a rapid turns off to another row the head rests. A path that never does
    is cut where it is long.
    """
    x, y = np.diff(moves.x).astype(np.float64), np.diff(moves.y).astype(np.float64)
    long = np.hypot(x, y)
    same_way = x[1:] * x[:-1] + y[1:] * y[:-1] > _TURNS_OFF * long[1:] * long[:-1]
    turns = np.flatnonzero((y[1:] != 0) & (moves.feed[2:] == 0) & ~same_way)
    end = 2 + int(turns[-1]) if turns.size else 0
    if not end and len(moves) > _MOST_BAND:
        end = len(moves)
    return _part(moves, slice(0, end)), _part(moves, slice(end, None))


def _part(moves: Moves, part: slice) -> Moves:
    return Moves(
        moves.x[part], moves.y[part], moves.power[part], moves.feed[part], _UNIT_MM,
        z=None if moves.z is None else moves.z[part],
    )  # fmt: skip


def read_job(text: bytes) -> JobSpec | None:
    """Return the job kept in a file's header comments, None when there is none.

    Raises
    ------
    JobError
        When the comments are there but damaged.
    """
    packed = "".join(
        line[2 + len(JOB_MARK) :]
        for line in text[:_HEAD].decode("ascii", "replace").splitlines()
        if line.startswith("; " + JOB_MARK)
    )
    if not packed:
        return None
    try:
        plain = zlib.decompress(base64.b64decode(packed, validate=True))
    except (binascii.Error, zlib.error):
        raise JobError("The job in this G-code file's comments is damaged.") from None
    return JobSpec.from_json(plain)
