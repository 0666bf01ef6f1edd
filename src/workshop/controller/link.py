"""Bytes to a controller and lines from it, counted so that none is lost.

A controller receives into a buffer of some bytes and loses what does not fit; each line
is answered once it has left the buffer. So a line is written only while all bytes that
are under way fit in.
"""

import threading
import time
from collections import deque
from collections.abc import Callable

import serial

from workshop.controller.errors import LinkError
from workshop.controller.port import Port, wait_for
from workshop.controller.protocol import (
    ASK,
    GO_ON,
    HOLD,
    RESET,
    SMALLEST_BUFFER,
    Heard,
    Place,
    Status,
    parse,
)
from workshop.controller.transcript import Transcript

GREETING_S = 8.0
ANSWER_S = 3.0
"""So long a machine may say nothing, not even what it is asked many times a second."""
_ASK_AGAIN_S = 0.5
_SETTLES_S = 5.0
_READ = 4096
_MOMENT_S, _CALM_S = 0.01, 0.03
_LONGEST = 4096
_STALLED_S = 1.0
_GREETS_S = 1.0

Listener = Callable[[Heard], None]
_LOST = "The connection to the controller was lost."


class Link:
    """An open port to a controller.

    All but `now` is called by one thread, the session's.

    Parameters
    ----------
    port : Port
        See `port.open_port`.
    transcript : Transcript
        Notes what is said.
    hear : callable
        Takes each line that came in, parsed.
    """

    def __init__(self, port: Port, transcript: Transcript, hear: Listener) -> None:
        self._port = port
        self._writing = threading.Lock()
        self._hear = hear
        self._pending = b""
        self._under_way: deque[bytes] = deque()
        self._used = 0
        self._heard = self._progress = time.monotonic()
        self._asked = 0.0
        self.transcript = transcript
        self.place = Place()
        self.status: Status | None = None
        self.reports = 0
        self.capacity = SMALLEST_BUFFER
        self.blocks = 0
        self.sent = self.answered = 0
        self.mended = 0
        self.answered_then = 0
        self.told = b""

    # Out

    def now(self, byte: bytes) -> None:
        """Write a single byte that acts at once; from any thread."""
        if byte != ASK:
            self.transcript.note(">", repr(byte)[2:-1])
        self._write(byte)

    def _write(self, data: bytes) -> None:
        try:
            with self._writing:
                self._port.write(data)
        except (serial.SerialException, OSError):
            raise LinkError(_LOST) from None

    def ask(self, every_s: float) -> None:
        """Ask for a status, at most so often."""
        now = time.monotonic()
        if now - self._asked >= every_s:
            self._asked = now
            self.now(ASK)

    @property
    def room(self) -> int:
        """How many bytes may be written now without one being lost."""
        return self.capacity - self._used

    def put(self, lines: list[bytes]) -> None:
        """Write lines; what is under way and they must fit in together."""
        for line in lines:
            self._under_way.append(line)
            self._used += len(line)
            self.transcript.note(">", line)
        self.sent += len(lines)
        if lines:
            self._write(b"".join(lines))

    @property
    def under_way(self) -> int:
        """How many lines are not answered yet."""
        return len(self._under_way)

    # In

    def listen(self, patience_s: float | None = None) -> None:
        """Take what came in, waiting a moment.

        Parameters
        ----------
        patience_s : float, optional
            Another time it may say nothing: many are silent while they find home.

        Raises
        ------
        LinkError
            When the port is gone, or nothing was heard for too long.
        """
        try:
            wait_for(self._port, _MOMENT_S if self._under_way else _CALM_S)
            data = self._port.read(_READ)
        except (serial.SerialException, OSError):
            raise LinkError(_LOST) from None
        if data:
            self._take(data)
        elif time.monotonic() - self._heard > max(patience_s or 0.0, ANSWER_S):
            raise LinkError("The controller has stopped answering.")

    def _take(self, data: bytes) -> None:
        self._heard = time.monotonic()
        *whole, self._pending = (self._pending + data).split(b"\n")
        if len(self._pending) > _LONGEST:
            self._pending = b""
        for line in whole:
            if line.strip():
                self._understand(parse(line))

    def _understand(self, heard: Heard) -> None:
        if heard.kind != "status":
            self.transcript.note("<", heard.text)
        if heard.kind in ("ok", "error"):
            self._count_answer()
        elif heard.kind == "status" and heard.status is not None:
            self.status = heard.status
            self.reports += 1
            self.answered_then = self.answered
            self.place.take(heard.status)
            self._mend(heard.status)
        elif heard.kind == "options":
            self.blocks = heard.blocks
            self.capacity = max(heard.bytes, SMALLEST_BUFFER) if heard.bytes else 128
        elif heard.kind == "greeting":
            self.forget()
        self._hear(heard)

    def _count_answer(self) -> None:
        self._progress = time.monotonic()
        if self._under_way:
            self.told = self._under_way.popleft()
            self._used -= len(self.told)
            self.answered += 1
        else:
            self.transcript.note("*", "an answer too many")

    def _mend(self, status: Status) -> None:
        """Count lines as answered whose answers were lost on the way.

        The machine says that nothing is left in its buffer, yet nothing was answered
        for a while: noise swallowed an answer. Without this the run would never end.
        """
        empty = status.room is None or status.room >= self.capacity
        quiet = time.monotonic() - self._progress > _STALLED_S
        if self._under_way and empty and quiet and status.state in ("idle", "run"):
            self.mended += len(self._under_way)
            self.transcript.note("*", f"{len(self._under_way)} answers were lost")
            self.answered += len(self._under_way)
            self._under_way.clear()
            self._used = 0

    def forget(self) -> None:
        """Count nothing as under way: the controller has dropped all of it."""
        self._under_way.clear()
        self._used = 0
        self._progress = time.monotonic()

    # Together

    def greet(self) -> None:
        """Wait until the controller says anything it should.

        Raises
        ------
        LinkError
            When it does not.
        """
        until = time.monotonic() + GREETING_S
        before = self.reports
        while time.monotonic() < until:
            self.ask(_ASK_AGAIN_S)
            self.listen()
            if self.reports > before:
                self._progress = time.monotonic()
                return
        raise LinkError("The controller was reached but does not answer.")

    def settle(self, seconds: float = _SETTLES_S) -> bool:
        """Wait until nothing moves; return whether that came about in time."""
        until, before = time.monotonic() + seconds, self.reports
        while time.monotonic() < until:
            self.ask(0.01)
            self.listen()
            if self.reports > before and self.status is not None and self.status.rests:
                return True
        return False

    def stop_orderly(self) -> bool:
        """Hold, wait for rest, reset: the beam is off and the position stays true.

        Returns
        -------
        bool
            Whether it came to rest first. Else it was reset all the same.
        """
        rested = False
        try:
            self.now(HOLD)
            rested = self.settle()
        finally:
            self.now(RESET)
            self.forget()
        self.settle(_GREETS_S)
        return rested

    def go_on(self) -> None:
        """Go on after a hold, or where a program waits."""
        self.now(GO_ON)

    def close(self) -> None:
        """Let go of the port."""
        self._port.close()
