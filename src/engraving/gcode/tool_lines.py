"""Lines for a tool that touches: up, across, down, along; a spindle where it has one.

No S word but the spindle's: a V-tool turns all the time, a drag point never does.
Z 0 is the surface, down is negative (NISTIR 6556, 2.1.2.4).
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.gcode.numbers import put_number
from engraving.jobspec import JobSpec
from engraving.toolpath import Moves
from engraving.units import MM_PER_INCH

LONGEST_LINE = 72
_START_ROOM = 200
TOUCH_OFF = "touch off"
"""Beside an M0: its operator changes the tool, and touches the new one off."""
_LONGEST_NAME = 60


def plain(text: str) -> str:
    """Return ASCII text that ends no comment and no line."""
    kept = text.replace("°", " deg").encode("ascii", "replace").decode()
    return "".join(c if c.isprintable() and c not in "();" else " " for c in kept)


def modes(spec: JobSpec) -> str:
    """Return the lines of the modes a file counts on."""
    return f"{'G20' if spec.machine.inches else 'G21'}\nG90\nG94\n"


def lifted(spec: JobSpec) -> str:
    """Return the line that lifts the tool clear of the piece."""
    machine = spec.machine
    inch = MM_PER_INCH if machine.inches else 1.0
    return f"G0Z{machine.lift_mm / inch:.{machine.decimals}f}\n"


def asked_name(tool: str) -> str:
    """Return a tool's name as a file asks for it."""
    return plain(tool)[:_LONGEST_NAME].strip() or "the other tool"


def taken_up(spec: JobSpec, moves: Moves, before: str | None) -> str:
    """Return the lines that take up a tool: none where it is in use.

    Parameters
    ----------
    before : str or None
        The tool so far; None at the beginning of a file.
    """
    if before == moves.tool and not moves.waits:
        return ""
    stop = "M5\n" if moves.spindle_rpm else ""
    start = f"M3S{moves.spindle_rpm}\n" if moves.spindle_rpm else ""
    wait = f"G4P{moves.warm_up_s:g}\n" if moves.spindle_rpm and moves.warm_up_s else ""
    if before is None:
        return f"{start}{wait}"
    asks = f"M0 ; {TOUCH_OFF}: {asked_name(moves.tool)}" if before != moves.tool else "M0"
    # Who was at the machine meanwhile may have left other modes behind.
    return f"{lifted(spec)}{stop}{asks}\n{modes(spec)}{lifted(spec)}{start}{wait}"


def most_around(spec: JobSpec) -> int:
    """Return how many bytes taking up a tool has at most."""
    return 2 * len(lifted(spec)) + _START_ROOM


def tool_lines(
    moves: Moves,
    x: NDArray[np.int32],
    y: NDArray[np.int32],
    spec: JobSpec,
    state: NDArray[np.int64],
) -> bytes:
    """Return moves as lines; `state` holds the modal G, X, Y, Z and F (in 1/1000).

    ``x`` and ``y`` are the moves' own, from the job's zero; of ``spec`` counts the
    machine, with as many decimals as are written.
    """
    machine = spec.machine
    feed = moves.feed / np.float32(MM_PER_INCH) if machine.inches else moves.feed
    # What has no heights of its own, such as a walk round the border, is no cut.
    high = np.full(len(moves), round(machine.lift_mm / moves.unit_mm), np.int32)
    heights = moves.z if moves.z is not None else high
    text = np.zeros(LONGEST_LINE * len(moves), np.uint8)
    size = _format(x, y, heights, feed, machine.decimals, text, state)
    return text[:size].tobytes()


@njit(cache=True, nogil=True)
def _format(x, y, z, feed, decimals, text, state):  # type: ignore[no-untyped-def]
    """Write moves; words that have not changed are left out, but for one of each line."""
    at = 0
    for i in range(x.size):
        rapid = feed[i] == 0
        word = 0 if rapid else 1
        if state[0] != word:
            text[at] = 71  # G
            text[at + 1] = 48 + word
            at += 2
            state[0] = word
        still = y[i] == state[2] and z[i] == state[3]
        if x[i] != state[1] or still:
            text[at] = 88
            at = put_number(text, at + 1, np.int64(x[i]), decimals)
            state[1] = x[i]
        if y[i] != state[2]:
            text[at] = 89
            at = put_number(text, at + 1, np.int64(y[i]), decimals)
            state[2] = y[i]
        if z[i] != state[3]:
            text[at] = 90
            at = put_number(text, at + 1, np.int64(z[i]), decimals)
            state[3] = z[i]
        if not rapid:
            thousandths = np.int64(feed[i] * 1000.0 + 0.5)
            if thousandths != state[4]:
                text[at] = 70
                at = put_number(text, at + 1, thousandths, 3)
                state[4] = thousandths
        text[at] = 10
        at += 1
    return at
