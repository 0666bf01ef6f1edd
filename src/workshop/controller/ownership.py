"""Who owns a machine: locks that two processes cannot have, and that end with theirs."""

import fcntl
import time
from pathlib import Path
from typing import IO

from workshop.controller.errors import LinkError

PROCESS = "process"
"""The lock of the link process itself; each open port has one more."""
_ATTEMPTS, _BETWEEN_S = 4, 0.05


def own(folder: Path, name: str) -> IO[str]:
    """Hold a lock until what is returned is closed.

    Raises
    ------
    LinkError
        When another process has it.
    """
    stream = _opened(folder, name)
    # Who only asks whether it is owned holds it for a blink.
    for _ in range(_ATTEMPTS):
        try:
            fcntl.flock(stream, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            time.sleep(_BETWEEN_S)
        else:
            return stream
    stream.close()
    raise LinkError("Another link process owns this machine.")


def owned(folder: Path, name: str) -> bool:
    """Return whether a process has a lock."""
    try:
        with _opened(folder, name) as stream:
            fcntl.flock(stream, fcntl.LOCK_SH | fcntl.LOCK_NB)
    except OSError:
        return True
    return False


def _opened(folder: Path, name: str) -> IO[str]:
    return (folder / f"link-{name}.lock").open("a")
