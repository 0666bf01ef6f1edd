"""Write a tool path as RS-274 text, straight to a byte stream.

Kramer, Proctor & Messina 2000 (NISTIR 6556): millimetres (G21), absolute
positions (G90), G0 rapid, G1 at feed F in mm/min, beam on M3 or M4, power S,
off M5, end M2. No exponents, at most 80 characters a line. "M4: power follows
speed" is a convention of open controllers with no standard behind it.

S is 0 in the line of every G0, so no controller travels with the beam on. Tools that
touch have lines of their own (`tool_lines`).
"""

import base64
import zlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from typing import Any, BinaryIO, NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots.compiled.vector import WIDE, copy_bytes
from engraving.gcode.numbers import put_number
from engraving.gcode.tool_lines import (
    lifted,
    modes,
    most_around,
    plain,
    taken_up,
    tool_lines,
)
from engraving.jobspec import JobSpec, SizePart
from engraving.place import as_written, job_zero, written_per_mm
from engraving.toolpath import Moves
from engraving.units import MM_PER_INCH

JOB_MARK = "job "
_COMMENT_WIDTH = 72
_LONGEST_LINE = 64
_NOWHERE = 1 << 40
_SLOT_BITS = 13
Put = Callable[[bytes], Any]


def write_gcode(
    spec: JobSpec, bands: Iterable[Moves], target: BinaryIO, remarks: Sequence[str] = ()
) -> Iterator[Moves]:
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
    remarks : sequence of str
        What the header says instead of the job, where the path is not a job's.
    """
    put = _ended(spec, target.write)
    put(_header(spec, remarks).encode("ascii"))
    raised = False
    for moves in write_moves(spec, bands, target.write):
        raised = moves.z_mm != 0
        yield moves
    put(_footer(spec, raised=raised).encode("ascii"))


def around(spec: JobSpec) -> int:
    """Return how many bytes a job's file has besides its moves, at most."""
    size = 0

    def count(text: bytes) -> None:
        nonlocal size
        size += len(text)

    put = _ended(spec, count)
    put((_header(spec) + _footer(spec, raised=True)).encode("ascii"))
    return size + (most_around(spec) if spec.machine.touches else 0)


def _ended(spec: JobSpec, write: Put) -> Put:
    """Return what writes lines as the machine's end."""
    if spec.machine.line_end == "lf":
        return write
    return lambda text: write(text.replace(b"\n", b"\r\n"))


def write_moves(spec: JobSpec, bands: Iterable[Moves], write: Put) -> Iterator[Moves]:
    """Write a tool path's moves alone, passing its bands on as they go.

    Parameters
    ----------
    spec : JobSpec
        The job; of its description only what moves are written by.
    bands : iterable of Moves
        The tool path.
    write : callable
        Takes ASCII text.
    """
    if spec.machine.touches:
        yield from _write_tool(spec, bands, _ended(spec, write))
        return
    put = _ended(spec, write)
    decimals = as_written(spec).machine.decimals
    state = np.array([-1, -1, -1, -1, -1], np.int64)
    kept, text = _kept_words(), np.zeros(0, np.uint8)
    height = 0.0
    inch = MM_PER_INCH if spec.machine.inches else 1.0
    second = _second_axis(spec)
    zero_x, zero_y = job_zero(spec)
    for moves in bands:
        if moves.waits:
            put(b"S0\nM0\n")
            state[3] = 0
        if moves.z_mm != height:
            height = moves.z_mm
            put(f"G0Z{height / inch:.{decimals}f}S0\n".encode())
            state[0] = state[3] = 0
        if text.size < (most := _LONGEST_LINE * len(moves) + WIDE):
            text = np.zeros(most, np.uint8)
        x, y = _from_zero(moves, zero_x, zero_y)
        y, feed = second.told(y, moves.feed)
        size = _format(
            x,
            y,
            moves.power,
            feed,
            (decimals, second.letter),
            text,
            state,
            kept,
        )
        put(text[:size].tobytes())
        yield moves


def _write_tool(spec: JobSpec, bands: Iterable[Moves], put: Put) -> Iterator[Moves]:
    """Write the moves of a tool that touches, passing its bands on as they go."""
    written = as_written(spec)
    state = np.full(5, _NOWHERE, np.int64)
    tool: str | None = None
    for moves in bands:
        taken = taken_up(spec, moves, tool)
        put(taken.encode("ascii"))
        if taken and tool is not None:
            state[:] = _NOWHERE
        tool = moves.tool
        x, y = _from_zero(moves, *job_zero(spec))
        put(tool_lines(moves, x, y, written, state))
        yield moves


class _SecondAxis(NamedTuple):
    """What the second axis is called and told; of a rotary, not mm of its surface.

    ``places`` and ``speeds`` are factors: of positions in output units, and of feeds
    in mm/min. Degrees are degrees in a file of inches too (NISTIR 6556, 2.1.2.5).
    """

    letter: int
    places: float
    speeds: float

    def told(
        self, y: NDArray[np.int32], feed: NDArray[np.float32]
    ) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
        """Return where it is told to go, in output units, and how fast a minute."""
        if self.places != 1:
            y = np.floor(y * self.places + 0.5).astype(np.int32)
        return y, feed if self.speeds == 1 else feed * np.float32(self.speeds)


def _from_zero(
    moves: Moves, zero_x: float, zero_y: float
) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """Return positions from the job's zero, in output units."""
    if not zero_x and not zero_y:
        return moves.x, moves.y
    x0, y0 = (round(zero / moves.unit_mm) for zero in (zero_x, zero_y))
    return moves.x - np.int32(x0), moves.y - np.int32(y0)


def _second_axis(spec: JobSpec) -> _SecondAxis:
    inch = MM_PER_INCH if spec.machine.inches else 1.0
    per_mm, letter = written_per_mm(spec), _second_letter(spec)
    # Rows that run round the piece move this axis alone; their feed is in its units.
    round_it = spec.burn.rows == "y"
    if letter == "A":
        return _SecondAxis(ord("A"), per_mm * inch, abs(per_mm) if round_it else 1 / inch)
    return _SecondAxis(ord("Y"), per_mm, (abs(per_mm) if round_it else 1.0) / inch)


def _second_letter(spec: JobSpec) -> str:
    """Return what the second axis is called: A where a rotary is told in degrees."""
    return "A" if spec.mount.rotary and spec.mount.output == "degrees" else "Y"


def _header(spec: JobSpec, remarks: Sequence[str] = ()) -> str:
    size, burn = spec.size, spec.burn
    lines = [plain(one) for one in remarks] or [
        "Old Ember raster engraving job",
        plain(f"name: {spec.name}"),
        plain(f"machine: {spec.machine.name}; substrate: {spec.substrate.name}"),
        f"size: {size.width_mm:.2f} x {size.height_mm:.2f} mm, "
        f"{size.cols} x {size.rows} dots, pitch {_apart(size)} mm",
        f"speed {burn.speed_mm_s:g} mm/s, power {burn.power:g} %, "
        f"passes {burn.passes}, dots {plain(spec.dots.method)}",
        *_packed_job(spec),
    ]
    machine = spec.machine
    own = "".join(f"{line}\n" for line in machine.header.splitlines())
    air = f"{machine.air_on}\n" if spec.blows_air and machine.air_on else ""
    start = modes(spec)
    if spec.place.zero == "head":
        start += f"G92X0{_second_letter(spec)}0\n"
    words = "".join(f"; {line[:_COMMENT_WIDTH]}\n" for line in lines)
    ready = lifted(spec) if machine.touches else f"{machine.beam} S0\n"
    return f"{words}{start}{own}{air}{ready}"


def _footer(spec: JobSpec, *, raised: bool) -> str:
    machine, home = spec.machine, _way_home(spec)
    down = "G0Z0\n" if raised else ""
    air = f"{machine.air_off}\n" if spec.blows_air and machine.air_off else ""
    own = "".join(f"{line}\n" for line in machine.footer.splitlines())
    if machine.touches:
        stop = "M5\n" if machine.kind == "vtool" else ""
        return f"{lifted(spec)}{stop}{home}{air}{own}M2\n"
    return f"S0\nM5\n{down}{home}{air}{own}M2\n"


def _way_home(spec: JobSpec) -> str:
    """Return the lines that go back to where the job began, where that is wanted."""
    turned = spec.mount.rotary
    second = f"{_second_letter(spec)}0" if not turned or spec.mount.back_to_start else ""
    if spec.place.zero == "head":
        return f"G0X0{second}S0\nG92.1\n"
    return f"G0{second}S0\n" if turned and second else ""


def _apart(size: SizePart) -> str:
    if size.dot_pitch_mm is None:
        return f"{size.pitch_mm:.4f}"
    return f"{size.along_mm:.4f} x {size.pitch_mm:.4f}"


def _packed_job(spec: JobSpec) -> list[str]:
    packed = base64.b64encode(zlib.compress(spec.model_dump_json().encode(), 9))
    text = packed.decode()
    width = _COMMENT_WIDTH - len(JOB_MARK)
    return [JOB_MARK + text[i : i + width] for i in range(0, len(text), width)]


def _kept_words() -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.uint8]]:
    """Return room for words written before: what each says, how long it is, its text."""
    slots = 1 << _SLOT_BITS
    said = np.full(slots, _NOWHERE)
    return said, np.zeros(slots, np.int64), np.zeros(slots * WIDE, np.uint8)


@njit(cache=True, nogil=True)
def _format(x, y, power, feed, ways, text, state, kept):  # type: ignore[no-untyped-def]
    """Write moves as lines; `state` holds the modal G, X, Y, S and F (in 1/1000).

    `ways` are the decimals, and the second axis's letter as a code. Words that have not
    changed are left out, except that a rapid move always says S0.

    Rows have the same columns and powers over and over: a word that was written lately
    is copied from `kept` (`_kept_words`), with whatever stands behind it, which is
    written over.
    """
    at = 0
    decimals, letter = ways
    said, sizes, words = kept
    for i in range(x.size):
        rapid = feed[i] == 0
        word = 0 if rapid else 1
        fresh = state[0] != word
        if fresh:
            text[at] = 71  # G
            text[at + 1] = 48 + word
            at += 2
            state[0] = word
        for is_power in range(2):
            if not is_power:
                value = np.int64(x[i])
                wanted = fresh or value != state[1] or y[i] == state[2]
                state[1] = value
            else:
                if (fresh and rapid) or y[i] != state[2]:
                    text[at] = letter
                    at = put_number(text, at + 1, np.int64(y[i]), decimals)
                    state[2] = y[i]
                value = np.int64(power[i])
                wanted = rapid or value != state[3]
                state[3] = value
            if wanted:
                key = 2 * value + is_power
                # Multiples of the golden section spread even steps (Knuth 1973, 6.4).
                spread = np.uint32(np.uint32(key) * np.uint32(2654435769))
                slot = np.int64(spread >> np.uint32(32 - _SLOT_BITS))
                begin = slot * WIDE
                if said[slot] != key:
                    said[slot] = key
                    words[begin] = 83 if is_power else 88  # S, X
                    after = put_number(words, begin + 1, value, 0 if is_power else decimals)
                    sizes[slot] = after - begin
                copy_bytes(text, at, words, begin)
                at += sizes[slot]
        if not rapid:
            thousandths = np.int64(feed[i] * 1000.0 + 0.5)
            if thousandths != state[4]:
                text[at] = 70  # F
                at = put_number(text, at + 1, thousandths, 3)
                state[4] = thousandths
        text[at] = 10
        at += 1
    return at
