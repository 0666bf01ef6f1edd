"""Start and dismiss the guard of an open port."""

import contextlib
import os
import subprocess
import sys
from pathlib import Path

from workshop.controller.port import Port

_GUARD = Path(__file__).with_name("guard.py")
_BYE_S = 2.0


class Guarded:
    """A guard beside an open port, where the system can have one.

    Parameters
    ----------
    port : Port
        The open port; what has no file handle stays without a guard.
    """

    def __init__(self, port: Port) -> None:
        self._process: subprocess.Popen[bytes] | None = None
        handle = getattr(port, "fileno", None)
        if handle is None or os.name != "posix":
            return
        waits, self._pipe = os.pipe()
        command = [sys.executable, "-S", "-E", str(_GUARD), str(handle()), str(waits)]
        self._process = subprocess.Popen(  # noqa: S603 (our own file)
            command, pass_fds=(handle(), waits)
        )
        os.close(waits)

    @property
    def alive(self) -> bool:
        """Whether it watches."""
        return self._process is not None and self._process.poll() is None

    def dismiss(self) -> None:
        """Say good-bye: the port is closed in good order."""
        if self._process is None:
            return
        with contextlib.suppress(OSError):
            os.write(self._pipe, b".")
        os.close(self._pipe)
        try:
            self._process.wait(_BYE_S)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
        self._process = None
