"""Write a tool path as RS-274 text, straight to a byte stream.

Kramer, Proctor & Messina 2000 (NISTIR 6556): millimetres (G21), absolute
positions (G90), G0 rapid, G1 at feed F in mm/min, beam on M3 or M4, power S,
off M5, end M2. No exponents, at most 80 characters a line. "M4: power follows
speed" is a convention of open controllers with no standard behind it.

S is 0 in the line of every G0, so no controller travels with the beam on.
"""

import base64
import zlib
from collections.abc import Iterable, Iterator
from typing import BinaryIO

import numpy as np
from numba import njit

from engraving.spec import JobSpec, SizePart
from engraving.toolpath import Moves

JOB_MARK = "job "
_COMMENT_WIDTH = 72
_LONGEST_LINE = 64


def write_gcode(spec: JobSpec, bands: Iterable[Moves], target: BinaryIO) -> Iterator[Moves]:
    """Write a job's tool path to `target`, passing its bands on as they go.

    The bands come out again so that one walk over the tool path can write it,
    time it and check it. Nothing is written until they are asked for.

    Parameters
    ----------
    spec : JobSpec
        The job; its JSON travels in the header comments.
    bands : iterable of Moves
        The tool path.
    target : binary stream
        Receives ASCII text.
    """
    target.write(_header(spec).encode("ascii"))
    state = np.array([-1, -1, -1, -1, -1], np.int64)
    for moves in bands:
        text = np.zeros(_LONGEST_LINE * len(moves), np.uint8)
        size = _format(
            moves.x,
            moves.y,
            moves.power,
            moves.feed,
            spec.machine.decimals,
            text,
            state,
        )
        target.write(text[:size].tobytes())
        yield moves
    target.write(b"S0\nM5\nM2\n")


def _header(spec: JobSpec) -> str:
    size, burn = spec.size, spec.burn
    lines = [
        "Old Ember raster engraving job",
        _plain(f"name: {spec.name}"),
        _plain(f"machine: {spec.machine.name}; substrate: {spec.substrate.name}"),
        f"size: {size.width_mm:.2f} x {size.height_mm:.2f} mm, "
        f"{size.cols} x {size.rows} dots, pitch {_apart(size)} mm",
        f"speed {burn.speed_mm_s:g} mm/s, power {burn.power:g} %, "
        f"passes {burn.passes}, dots {_plain(spec.dots.method)}",
        *_packed_job(spec),
    ]
    start = f"G21\nG90\nG94\n{spec.machine.beam} S0\n"
    return "".join(f"; {line[:_COMMENT_WIDTH]}\n" for line in lines) + start


def _apart(size: SizePart) -> str:
    if size.dot_pitch_mm is None:
        return f"{size.pitch_mm:.4f}"
    return f"{size.along_mm:.4f} x {size.pitch_mm:.4f}"


def _plain(text: str) -> str:
    """Return ASCII text that ends no comment and no line."""
    kept = text.encode("ascii", "replace").decode()
    return "".join(c if c.isprintable() and c not in "();" else " " for c in kept)


def _packed_job(spec: JobSpec) -> list[str]:
    packed = base64.b64encode(zlib.compress(spec.model_dump_json().encode(), 9))
    text = packed.decode()
    width = _COMMENT_WIDTH - len(JOB_MARK)
    return [JOB_MARK + text[i : i + width] for i in range(0, len(text), width)]


@njit(cache=True, nogil=True)
def _put_number(text, at, value, decimals):  # type: ignore[no-untyped-def]
    """Write value·10^-decimals without trailing zeros; returns the next place."""
    if value < 0:
        text[at] = 45
        at += 1
        value = -value
    unit = 1
    for _ in range(decimals):
        unit *= 10
    whole, part = value // unit, value % unit
    power = 1
    while power * 10 <= whole:
        power *= 10
    while power > 0:
        text[at] = 48 + (whole // power) % 10
        at += 1
        power //= 10
    if part:
        text[at] = 46
        at += 1
        while part:
            unit //= 10
            text[at] = 48 + part // unit
            at += 1
            part %= unit
    return at


@njit(cache=True, nogil=True)
def _format(x, y, power, feed, decimals, text, state):  # type: ignore[no-untyped-def]
    """Write moves as lines; `state` holds the modal G, X, Y, S and F (in 1/1000).

    Words that have not changed are left out, except that a rapid move always
    says S0.
    """
    at = 0
    for i in range(x.size):
        rapid = feed[i] == 0
        word = 0 if rapid else 1
        fresh = state[0] != word
        if fresh:
            text[at] = 71  # G
            text[at + 1] = 48 + word
            at += 2
            state[0] = word
        if fresh or x[i] != state[1] or y[i] == state[2]:
            text[at] = 88  # X
            at = _put_number(text, at + 1, np.int64(x[i]), decimals)
            state[1] = x[i]
        if (fresh and rapid) or y[i] != state[2]:
            text[at] = 89  # Y
            at = _put_number(text, at + 1, np.int64(y[i]), decimals)
            state[2] = y[i]
        if rapid or power[i] != state[3]:
            text[at] = 83  # S
            at = _put_number(text, at + 1, np.int64(power[i]), 0)
            state[3] = power[i]
        if not rapid:
            thousandths = np.int64(feed[i] * 1000.0 + 0.5)
            if thousandths != state[4]:
                text[at] = 70  # F
                at = _put_number(text, at + 1, thousandths, 3)
                state[4] = thousandths
        text[at] = 10
        at += 1
    return at
