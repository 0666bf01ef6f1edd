"""Read G-code back into moves: enough of RS-274 for engraving files.

Understood: G0 G1 G20 G21 G90 G91 G94, M2 M3 M4 M5 M30, X Y S F N, comments
in parentheses and after a semicolon. Z and unknown M words are passed over;
arcs and other motion are refused, since their time would be wrong.
"""

import base64
import binascii
import zlib
from collections.abc import Iterator

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.errors import JobError
from engraving.gcode.writer import JOB_MARK
from engraving.spec import JobSpec
from engraving.toolpath import Moves

_UNIT_MM = 1e-4
_CHUNK = 1 << 22
_FAULTS = {
    1: "a word without a number",
    2: "a motion other than G0 and G1, which cannot be timed",
    3: "a G1 before any feed F",
    4: "a character that belongs to no word",
}


def read_moves(text: bytes) -> Iterator[Moves]:
    """Yield the moves of a G-code file, in bands that end at rest.

    Parameters
    ----------
    text : bytes
        The whole file.

    Raises
    ------
    JobError
        When a line cannot be understood; the message gives its number.
    """
    data = np.frombuffer(text, np.uint8)
    lines = int(np.count_nonzero(data == ord("\n"))) + 1
    x, y, power = (np.zeros(lines, np.int32) for _ in range(3))
    feed = np.zeros(lines, np.float32)
    count, fault, line = _parse(data, x, y, power, feed)
    if fault:
        raise JobError(f"Line {line} of the G-code has {_FAULTS[fault]}.")
    moves = Moves(x[:count], y[:count], power[:count], feed[:count], _UNIT_MM)
    yield from _bands(moves)


def _bands(moves: Moves) -> Iterator[Moves]:
    """Cut a long path where a rapid changes the row: there the head rests."""
    start = 0
    while start < len(moves):
        end = min(start + _CHUNK, len(moves))
        if end < len(moves):
            changes = moves.y[start + 1 : end] != moves.y[start : end - 1]
            turns = np.flatnonzero(changes & (moves.feed[start + 1 : end] == 0))
            end = start + 1 + int(turns[-1]) if turns.size else end
        part = slice(start, end)
        yield Moves(
            moves.x[part], moves.y[part], moves.power[part], moves.feed[part], _UNIT_MM
        )
        start = end


def read_job(text: bytes) -> JobSpec | None:
    """Return the job kept in a file's header comments, None when there is none.

    Raises
    ------
    JobError
        When the comments are there but damaged.
    """
    packed = "".join(
        line[2 + len(JOB_MARK) :]
        for line in text[: 1 << 20].decode("ascii", "replace").splitlines()
        if line.startswith("; " + JOB_MARK)
    )
    if not packed:
        return None
    try:
        plain = zlib.decompress(base64.b64decode(packed, validate=True))
    except (binascii.Error, zlib.error):
        raise JobError("The job in this G-code file's comments is damaged.") from None
    return JobSpec.from_json(plain)


@njit(cache=True, nogil=True)
def _number(data: NDArray[np.uint8], at: int) -> tuple[float, int]:
    """Return a number and the place after it; the place is -1 when there is none."""
    sign, value, scale, digits = 1.0, 0.0, 0.0, 0
    while at < data.size and (data[at] == 32 or data[at] == 9):
        at += 1
    if at < data.size and (data[at] == 45 or data[at] == 43):
        sign = -1.0 if data[at] == 45 else 1.0
        at += 1
    while at < data.size:
        c = data[at]
        if 48 <= c <= 57:
            value = value * 10 + (c - 48)
            scale *= 10
            digits += 1
        elif c == 46 and scale == 0:
            scale = 1.0
        else:
            break
        at += 1
    if digits == 0:
        return 0.0, -1
    return sign * value / (scale if scale > 0 else 1.0), at


@njit(cache=True, nogil=True)
def _skip(data, at):  # type: ignore[no-untyped-def]
    """Return the place after blanks and comments, the line's end not passed."""
    while at < data.size:
        c = data[at]
        if c == 59:
            while at < data.size and data[at] != 10:
                at += 1
        elif c == 40:
            while at < data.size and data[at] != 41 and data[at] != 10:
                at += 1
            if at < data.size and data[at] == 41:
                at += 1
        elif c == 32 or c == 9 or c == 13 or c == 37:
            at += 1
        else:
            break
    return at


@njit(cache=True, nogil=True)
def _parse(data, xs, ys, powers, feeds):  # type: ignore[no-untyped-def]
    """Interpret lines into moves; returns their count, a fault and its line."""
    x, y, s, f = 0.0, 0.0, 0.0, 0.0
    motion, scale, relative, on = 0, 1.0, False, False
    n, at, line = 0, 0, 1
    while at < data.size:
        new_x, new_y, moved = x, y, False
        at = _skip(data, at)
        while at < data.size and data[at] != 10:
            letter = data[at] & 0xDF
            if letter < 65 or letter > 90:
                return n, 4, line
            value, at = _number(data, at + 1)
            if at < 0:
                return n, 1, line
            if letter == 71:
                if value == 0 or value == 1:
                    motion = int(value)
                elif value == 20:
                    scale = 25.4
                elif value == 21:
                    scale = 1.0
                elif value == 90:
                    relative = False
                elif value == 91:
                    relative = True
                elif value == 2 or value == 3 or (value >= 80 and value < 90):
                    return n, 2, line
            elif letter == 77:
                if value == 3 or value == 4:
                    on = True
                elif value == 5 or value == 2 or value == 30:
                    on = False
            elif letter == 88:
                new_x = value * scale + (x if relative else 0.0)
                moved = True
            elif letter == 89:
                new_y = value * scale + (y if relative else 0.0)
                moved = True
            elif letter == 83:
                s = value
            elif letter == 70:
                f = value * scale
            at = _skip(data, at)
        if moved:
            if motion == 1 and f <= 0:
                return n, 3, line
            x, y = new_x, new_y
            xs[n] = np.int32(np.floor(x * 10000 + 0.5))
            ys[n] = np.int32(np.floor(y * 10000 + 0.5))
            lit = on and motion == 1 and s > 0
            powers[n] = np.int32(s + 0.5) if lit else 0
            if lit and powers[n] == 0:
                powers[n] = 1
            feeds[n] = f if motion == 1 else 0.0
            n += 1
        at += 1
        line += 1
    return n, 0, line
