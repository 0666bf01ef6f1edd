"""A job's G-code in several files: one a pocket, or none larger than a small store holds.

Each part is a program of its own, cut where a row or a stroke begins: there the head is
at rest and the beam is off.
"""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import BinaryIO

import numpy as np

from engraving.errors import InputError, JobError
from engraving.gcode.reader import read_moves
from engraving.gcode.writer import around, write_gcode, write_moves
from engraving.jobspec import JobSpec
from engraving.motion import Clock, Estimate
from engraving.toolpath import Moves

MOST_PARTS = 99
Opener = Callable[[int], BinaryIO]
"""Gives the stream that a part is written to, and read again from, by its number from 0."""


@dataclass(frozen=True)
class Part:
    """One file of a job.

    Attributes
    ----------
    size : int
        Bytes.
    moves : int
    burn_mm : float
        Length with the beam on.
    """

    size: int
    moves: int
    burn_mm: float


def write_parts(
    spec: JobSpec,
    bands: Iterable[Moves],
    opened: Opener,
    *,
    most_bytes: int = 0,
    by_pocket: bool = False,
) -> list[Part]:
    """Write a job's G-code in as many parts as it takes, and read each again.

    Parameters
    ----------
    spec : JobSpec
    bands : iterable of Moves
        The tool path.
    opened : callable
        Gives a part's stream; it is left open.
    most_bytes : int
        What a part may have at most; 0 for any.
    by_pocket : bool
        A part for each pocket of a fixture.

    Raises
    ------
    InputError
        When not even one row goes into a part, it takes more than 99 parts, or a part is
        not read back as it was planned.
    """
    cutter = _Cutter(spec, bands, most_bytes, by_pocket=by_pocket)
    found: list[Part] = []
    while cutter.left:
        if len(found) == MOST_PARTS:
            raise InputError(
                f"It takes more than {MOST_PARTS} files of this size; let them be larger."
            )
        stream, clock = opened(len(found)), Clock((1000, 1000), 1000)
        for moves in write_gcode(spec, cutter.part(), stream):
            clock.add(moves)
        found.append(_read_again(stream, clock.estimate(), spec))
    return found


def _read_again(stream: BinaryIO, planned: Estimate, spec: JobSpec) -> Part:
    """Return what was written, as it is read back."""
    size = stream.tell()
    stream.flush()
    stream.seek(0)
    clock = Clock((1000, 1000), 1000)
    try:
        for moves in read_moves(stream):
            clock.add(moves)
    except JobError as error:
        raise InputError(f"The file was not written as planned: {error}") from None
    read = clock.estimate()
    # A rotary's surface is told in other units, and rounded there.
    near = 1e-3 if spec.mount.rotary else 1e-6
    if abs(read.burn_mm - planned.burn_mm) > near * max(planned.burn_mm, 1.0):
        raise InputError(
            "The file was not written as planned: read again, its burned lines are "
            f"{read.burn_mm:.1f} mm long and not {planned.burn_mm:.1f} mm."
        )
    return Part(size, planned.moves, planned.burn_mm)


class _Cutter:
    """Gives a tool path away part by part."""

    def __init__(
        self, spec: JobSpec, bands: Iterable[Moves], most_bytes: int, *, by_pocket: bool
    ) -> None:
        self._spec = spec
        self._bands = iter(bands)
        self._by_pocket = by_pocket
        self._room = most_bytes - around(spec) if most_bytes else 0
        if most_bytes and self._room <= 0:
            raise InputError(_TOO_SMALL)
        self.left: Moves | None = next(self._bands, None)

    def part(self) -> Iterator[Moves]:
        """Yield the moves of the next part."""
        room, first, pocket = self._room, True, self.left.pocket if self.left else 0
        while (moves := self.left) is not None:
            if not first and self._by_pocket and moves.pocket != pocket:
                return
            moves = replace(moves, waits=moves.waits and not first)
            if self._room:
                fits, size = self._fitting(moves, room)
                if not fits and first:
                    raise InputError(_TOO_SMALL)
                if fits < len(moves):
                    self.left = moves.between(fits, len(moves))
                    if fits:
                        yield moves.between(0, fits)
                    return
                room -= size
            self.left = next(self._bands, None)
            yield moves
            first = False

    def _fitting(self, moves: Moves, room: int) -> tuple[int, int]:
        """Return how many moves of a band fit, in whole rows, and the bytes of all."""
        texts: list[bytes] = []
        for _ in write_moves(self._spec, [moves], texts.append):
            pass
        text = np.frombuffer(b"".join(texts), np.uint8)
        ends = np.flatnonzero(text == ord("\n")) + 1
        ends = ends[len(ends) - len(moves) :]
        if text.size <= room:
            return len(moves), text.size
        starts = moves.starts()[1:]
        good = starts[ends[starts - 1] <= room]
        return int(good[-1]) if good.size else 0, text.size


_TOO_SMALL = "Not even one row fits into a file of this size."
