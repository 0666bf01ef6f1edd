"""Where rows and strokes begin in a file of G-code: to tell progress, to go on there."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray

from engraving.gcode import write_gcode
from engraving.jobspec import JobSpec
from engraving.motion import Clock, Estimate
from engraving.toolpath import Moves


@dataclass(frozen=True)
class Starts:
    """The beginnings of a job's rows and strokes, in the order they are burned.

    Attributes
    ----------
    lines : ndarray of int64, shape (n,)
        Line of each, counted from 0, comments left out.
    seconds : ndarray of float64, shape (n,)
        When each is planned to begin.
    estimate : Estimate
        Of all that was written.
    """

    lines: NDArray[np.int64]
    seconds: NDArray[np.float64]
    estimate: Estimate


class _Counted:
    """A stream that counts the lines a controller gets."""

    def __init__(self, stream: BinaryIO) -> None:
        self._stream = stream
        self.lines = 0

    def write(self, data: bytes) -> int:
        remarks = data.startswith(b";") + data.count(b"\n;") if b";" in data else 0
        self.lines += data.count(b"\n") - remarks
        return self._stream.write(data)


def write_with_starts(
    spec: JobSpec,
    bands: Iterable[Moves],
    clock: Clock,
    target: BinaryIO,
    remarks: Sequence[str] = (),
) -> Starts:
    """Write a job's G-code; return where its rows and strokes begin.

    Parameters
    ----------
    spec : JobSpec
        The job.
    bands : iterable of Moves
        Its tool path.
    clock : Clock
        Not yet begun.
    target : binary stream
        Receives ASCII text.
    remarks : sequence of str
        As `write_gcode`.
    """
    counted = _Counted(target)
    lines, seconds, begun = [], [], 0.0
    for moves in write_gcode(spec, bands, counted, remarks):  # type: ignore[arg-type]
        each = clock.add(moves)
        at = moves.starts()
        lines.append(counted.lines - len(moves) + at)
        due = np.concatenate(([0.0], np.cumsum(each)))
        seconds.append(begun + due[at])
        begun += float(due[-1])
    return Starts(
        np.concatenate(lines) if lines else np.zeros(0, np.int64),
        np.concatenate(seconds) if seconds else np.zeros(0),
        clock.estimate(),
    )


def without_first(bands: Iterable[Moves], rows: int) -> Iterator[Moves]:
    """Yield a tool path without its first rows and strokes.

    Parameters
    ----------
    bands : iterable of Moves
        The tool path.
    rows : int
        How many are left out, 0 or more.
    """
    left = rows
    for moves in bands:
        at = moves.starts()
        if left >= len(at):
            left -= len(at)
            continue
        if not left:
            yield moves
            continue
        yield moves.between(int(at[left]), len(moves))
        left = 0
