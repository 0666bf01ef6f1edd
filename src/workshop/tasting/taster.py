"""Ask for a file to be read elsewhere first, where the system can do that."""

import atexit
import json
import os
import subprocess
import sys
import tempfile
import threading
from contextlib import suppress
from pathlib import Path

from engraving.errors import ArtworkError

_SERVER = Path(__file__).with_name("server.py")
_ROOT = _SERVER.parents[2]
SECONDS = 20.0
BYTES = 2 << 30
_ABLE = hasattr(os, "pidfd_open") and Path("/proc/self/statm").exists()


class _Taster:
    """The process, begun when it is first wanted, and again when it is gone."""

    def __init__(self) -> None:
        self._one = threading.Lock()
        self._process: subprocess.Popen[str] | None = None

    def ask(self, kind: str, path: Path, seconds: float, most: int) -> str:
        """Return what is wrong with a file, empty where nothing is."""
        words = {"kind": kind, "path": str(path), "seconds": seconds, "bytes": most}
        with self._one:
            for _ in range(2):
                with suppress(OSError, ValueError):
                    return self._answer(json.dumps(words))
                self.end()
        return "The file could not be looked at; try again."

    def _answer(self, words: str) -> str:
        process = self._process or self._begin()
        if process.stdin is None or process.stdout is None:
            raise OSError
        process.stdin.write(words + "\n")
        process.stdin.flush()
        return str(json.loads(process.stdout.readline())["fault"])

    def _begin(self) -> "subprocess.Popen[str]":
        environment = {**os.environ, "PYTHONPATH": str(_ROOT)}
        self._process = subprocess.Popen(  # noqa: S603 (our own file)
            [sys.executable, str(_SERVER)], stdin=subprocess.PIPE, stdout=subprocess.PIPE,
            text=True, env=environment,
        )  # fmt: skip
        return self._process

    def begin(self) -> None:
        """Have it ready before a file comes in."""
        with self._one:
            self._process = self._process or self._begin()

    def end(self) -> None:
        """Let the process go; the next file begins another."""
        process, self._process = self._process, None
        if process is not None:
            process.kill()
            # Closes its pipes too, whatever was on its way through them.
            with suppress(OSError, ValueError), process:
                pass


_taster = _Taster()
atexit.register(_taster.end)


def get_ready() -> None:
    """Begin the process beforehand: that takes a second or two."""
    if _ABLE:
        _taster.begin()


def taste(
    kind: str, source: Path | bytes, seconds: float = SECONDS, most: int = BYTES
) -> None:
    """Read a file in a process of its own, with limits.

    Parameters
    ----------
    kind : str
        ``picture``, ``font``, ``svg`` or ``dxf``.
    source : Path or bytes
    seconds : float
        It may take so long.
    most : int
        And so many bytes of memory.

    Raises
    ------
    ArtworkError
        When it takes more, the reading breaks off, or the file is refused in words.
    """
    if not _ABLE:
        return
    if isinstance(source, bytes):
        with tempfile.NamedTemporaryFile() as kept:
            kept.write(source)
            kept.flush()
            fault = _taster.ask(kind, Path(kept.name), seconds, most)
    else:
        fault = _taster.ask(kind, source, seconds, most)
    if fault:
        raise ArtworkError(fault)
