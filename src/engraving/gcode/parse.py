"""RS-274 lines to ends of moves, compiled."""

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

FAULTS = {
    1: "a word without a number",
    2: "a motion other than G0 to G3 in the XY plane, which cannot be timed",
    3: "a motion at a feed before any feed F",
    4: "a character that belongs to no word",
    5: "an arc without centre or radius, or whose ends do not lie on it",
}
_ARC_OFF_MM = 0.05
A, TURN, RADIUS, Z, COLUMNS = 2, 5, 6, 8, 9
"""Columns of a move: x, y, a, centre x and y, turn in rad, radius, first angle, z."""
STATE = (
    "x", "y", "s", "f", "motion", "scale", "relative", "on", "a", "absolute", "z", "deep",
    "armed",
)  # fmt: skip
"""What lines leave behind; `deep`: Z was named; `armed`: beam or spindle was, ever."""


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
def _arc(x, y, new_x, new_y, way, told, out):  # type: ignore[no-untyped-def]
    """Fill an arc's centre, turn, radius and first angle; False where it is none.

    `told` holds I, J, R, whether R was said, and whether I and J are absolute.
    By radius the shorter arc is meant, by a negative one the longer.
    """
    i, j, r, by_radius, absolute = told
    if by_radius:
        dx, dy = new_x - x, new_y - y
        chord = math.hypot(dx, dy)
        if chord == 0 or abs(r) * 2 < chord - 1e-3:
            return False
        high = math.sqrt(max(r * r - chord * chord / 4, 0.0))
        side = 1.0 if (way > 0) == (r > 0) else -1.0
        cx = x + dx / 2 - side * high * dy / chord
        cy = y + dy / 2 + side * high * dx / chord
    elif absolute:
        cx, cy = i, j
    else:
        cx, cy = x + i, y + j
    radius = math.hypot(x - cx, y - cy)
    if radius <= 0 or abs(math.hypot(new_x - cx, new_y - cy) - radius) > _ARC_OFF_MM:
        return False
    begun = math.atan2(y - cy, x - cx)
    turn = math.atan2(new_y - cy, new_x - cx) - begun
    if way > 0 and turn <= 1e-9:
        turn += 2 * math.pi
    elif way < 0 and turn >= -1e-9:
        turn -= 2 * math.pi
    out[3], out[4], out[5], out[6], out[7] = cx, cy, turn, radius, begun
    return True


@njit(cache=True, nogil=True)
def parse(data, state, ends, powers, feeds):  # type: ignore[no-untyped-def]  # noqa: PLR0911
    """Interpret lines into moves; returns their count, a fault and its line.

    `state` goes on from piece to piece of a file; see `STATE`. In a file that never
    switches a beam or a spindle on, the tool marks where it is fed below the surface.
    """
    x, y, s, f, motion, scale, relative, on, a, absolute, z, deep, armed = state
    n, at, line = 0, 0, 1
    while at < data.size:
        new_x, new_y, new_z, new_a, moved = x, y, z, a, False
        i, j, r, by_radius, centred = 0.0, 0.0, 0.0, False, False
        at = _skip(data, at)
        while at < data.size and data[at] != 10:
            letter = data[at] & 0xDF
            if letter < 65 or letter > 90:
                return n, 4, line
            value, at = _number(data, at + 1)
            if at < 0:
                return n, 1, line
            step = value * scale
            if letter == 71:
                if value == 0 or value == 1 or value == 2 or value == 3:
                    motion = value
                elif value == 20:
                    scale = 25.4
                elif value == 21:
                    scale = 1.0
                elif value == 90:
                    relative = 0.0
                elif value == 91:
                    relative = 1.0
                elif abs(value - 90.1) < 1e-6:
                    absolute = 1.0
                elif abs(value - 91.1) < 1e-6:
                    absolute = 0.0
                elif value == 18 or value == 19 or (value >= 80 and value < 90):
                    return n, 2, line
            elif letter == 77:
                if value == 3 or value == 4:
                    on, armed = 1.0, 1.0
                elif value == 5 or value == 2 or value == 30:
                    on = 0.0
            elif letter == 88:
                new_x, moved = step + (x if relative else 0.0), True
            elif letter == 89:
                new_y, moved = step + (y if relative else 0.0), True
            elif letter == 90:
                new_z, moved, deep = step + (z if relative else 0.0), True, 1.0
            elif letter == 65:  # degrees, whatever the unit of length
                new_a, moved = value + (a if relative else 0.0), True
            elif letter == 73:
                i, centred = step, True
            elif letter == 74:
                j, centred = step, True
            elif letter == 82:
                r, by_radius = step, True
            elif letter == 83:
                s = value
            elif letter == 70:
                f = step
            at = _skip(data, at)
        if moved or (centred and motion >= 2):
            if motion >= 1 and f <= 0:
                return n, 3, line
            if motion >= 2:
                if not (by_radius or centred):
                    return n, 5, line
                told = (i, j, r, by_radius, absolute > 0)
                if not _arc(x, y, new_x, new_y, 1 if motion == 3 else -1, told, ends[n]):
                    return n, 5, line
            # A alone is fed in degrees, whatever the unit of length.
            alone = new_a != a and new_x == x and new_y == y
            x, y, z, a = new_x, new_y, new_z, new_a
            ends[n, 0], ends[n, 1], ends[n, 2], ends[n, 8] = x, y, a, z
            lit = on > 0 and motion >= 1 and s > 0
            powers[n] = np.int32(s + 0.5) if lit else 0
            if lit and powers[n] == 0:
                powers[n] = 1
            if armed == 0 and motion >= 1 and z < 0:
                powers[n] = 1
            feeds[n] = 0.0 if motion < 1 else f / scale if alone else f
            n += 1
        at += 1
        line += 1
    modal = [x, y, s, f, motion, scale, relative, on, a, absolute, z, deep, armed]
    state[:] = np.array(modal)
    return n, 0, line
