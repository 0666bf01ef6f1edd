"""A file of G-code as it is sent: line by line, told to the row, dry where wanted."""

import json
import re
from bisect import bisect_right
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

_POWER_WORD = re.compile(rb"S[0-9.]+")
_FEED_WORD = re.compile(rb"F[0-9.]+")
_TAKES_UP = re.compile(rb"M0 ; touch off: ([^\r\n]{1,80})")
_BEAM_ON = re.compile(rb"M[34](?![0-9])")


def asked_by(line: bytes | None) -> str:
    """Return the tool that a line waits for to be taken up and touched off; empty if none.

    Such a line is not sent: a controller that waits by itself would let nobody move the
    tool meanwhile.
    """
    if line is None or not line.startswith(b"M0"):
        return ""
    found = _TAKES_UP.match(line)
    return found[1].decode("ascii", "replace").strip() if found else ""


@dataclass(frozen=True)
class RowTable:
    """Which line begins which row, and when it is due.

    Attributes
    ----------
    lines : list of int
        The first line of each row, counted from 0.
    seconds : list of float
        When each is planned to begin.
    total_s : float
        How long all of it is planned to take.
    """

    lines: list[int] = field(default_factory=list)
    seconds: list[float] = field(default_factory=list)
    total_s: float = 0.0

    @classmethod
    def read(cls, path: Path) -> "RowTable":
        """Return what stands beside a file of G-code; nothing where it is missing."""
        try:
            found = json.loads(path.read_text())
            return cls(found["lines"], found["seconds"], float(found["total_s"]))
        except (OSError, ValueError, KeyError, TypeError):
            return cls()

    def write(self, path: Path) -> None:
        """Lay it beside the file of G-code."""
        path.write_text(json.dumps(self.__dict__))

    def begun(self, lines: int) -> int:
        """Return how many rows begin among the first so many lines."""
        return bisect_right(self.lines, lines - 1) if lines > 0 else 0

    def due(self, lines: int) -> float:
        """Return when the row that so many lines reach into was planned to begin."""
        row = self.begun(lines)
        return self.seconds[row - 1] if row else 0.0


@dataclass(frozen=True)
class Program:
    """Lines to be sent.

    Attributes
    ----------
    path : Path
        The file.
    dry : bool
        The beam stays off, whatever the file says.
    feed_mm_min : float
        Another speed for all feed moves; 0: as the file says.
    again : bool
        Begin anew at the end, until stopped.
    """

    path: Path
    dry: bool = False
    feed_mm_min: float = 0.0
    again: bool = False

    def lines(self) -> Iterator[bytes]:
        """Yield the lines that say something, as the controller gets them."""
        while True:
            with self.path.open("rb") as stream:
                for line in stream:
                    if (code := self._told(line)) is not None:
                        yield code
            if not self.again:
                return

    def _told(self, line: bytes) -> bytes | None:
        if asked_by(line):
            return line
        code = line.split(b";", 1)[0].strip()
        if not code or (self.again and code in (b"M2", b"M30")):
            return None
        if self.dry:
            code = _BEAM_ON.sub(b"M5", _POWER_WORD.sub(b"S0", code))
        if self.feed_mm_min:
            code = _FEED_WORD.sub(b"F%.0f" % self.feed_mm_min, code)
        return code + b"\n"
