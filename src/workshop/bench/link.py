"""The line protocol of open motion controllers, over pyserial.

One line out, ``ok`` or ``error:n`` back; single bytes ``?``, ``!``, ``~`` and
0x18 act at once. A serial port for a real machine, ``socket://host:port`` for
the stand-in: the same code.
"""

import re
import time
from collections import deque
from collections.abc import Iterator
from types import TracebackType
from typing import Self

import serial

_GREETING_S = 10.0
_ASK_AGAIN_S = 1.0
_ANSWER_S = 30.0
_READ = 65536


class LinkError(Exception):
    """The controller cannot be reached, or refuses.

    Attributes
    ----------
    refused : bool
        Whether it understood a line and would not do it.
    """

    def __init__(self, sentence: str, *, refused: bool = False) -> None:
        super().__init__(sentence)
        self.refused = refused


class Link:
    """A connection to a controller; a context manager.

    Parameters
    ----------
    url : str
        Serial port or ``socket://`` address.
    window : int
        Bytes that may be under way unanswered: the controller's receive buffer.
    """

    def __init__(self, url: str, window: int = 60000, baud: int = 115200) -> None:
        try:
            self._port = serial.serial_for_url(url, baudrate=baud, timeout=0.02)
        except (serial.SerialException, OSError, ValueError):
            raise LinkError(
                "The controller does not answer; is it switched on and connected?"
            ) from None
        self._window = window
        self._pending = b""
        self._under_way: deque[int] = deque()
        self._used = 0
        self._heard = time.monotonic()
        self.status: dict[str, str] = {}
        self.answered = 0

    def __enter__(self) -> Self:
        self._wait_for_greeting()
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self._port.close()

    def _wait_for_greeting(self) -> None:
        # A greeting that comes while the port is still being opened is thrown
        # away there; a status will do as well.
        begun = asked = time.monotonic()
        while (now := time.monotonic()) < begun + _GREETING_S:
            if any(self._lines()):
                return
            if now > asked + _ASK_AGAIN_S:
                asked = now
                self._write(b"?")
        raise LinkError("The controller was reached but does not greet.")

    def _lines(self) -> Iterator[str]:
        try:
            self._pending += self._port.read(_READ)
        except (serial.SerialException, OSError):
            raise LinkError("The connection to the controller was lost.") from None
        *whole, self._pending = self._pending.split(b"\n")
        for line in whole:
            self._heard = time.monotonic()
            if text := line.decode("ascii", "replace").strip():
                yield text

    def _write(self, data: bytes) -> None:
        try:
            self._port.write(data)
        except (serial.SerialException, OSError):
            raise LinkError("The connection to the controller was lost.") from None

    def send(self, lines: Iterator[bytes]) -> Iterator[int]:
        """Send lines; yields, a few times a second, how many were answered.

        Raises
        ------
        LinkError
            When a line is refused, no answer comes, or the link breaks.
        """
        waiting = next(lines, None)
        while waiting is not None or self._under_way:
            batch = bytearray()
            while waiting is not None and self._used + len(waiting) <= self._window:
                batch += waiting
                self._under_way.append(len(waiting))
                self._used += len(waiting)
                waiting = next(lines, None)
            if batch:
                self._write(bytes(batch))
            self._listen()
            yield self.answered

    def _listen(self) -> None:
        """Take what has come in: answers free the window, a status is kept."""
        for text in self._lines():
            if text == "ok" and self._under_way:
                self._used -= self._under_way.popleft()
                self.answered += 1
            elif text.startswith("error:"):
                said = f"The controller refused line {self.answered + 1} ({text})."
                raise LinkError(said, refused=True)
            elif text.startswith("<"):
                self.status = self._parse(text)
        if time.monotonic() - self._heard > _ANSWER_S:
            raise LinkError("The controller has stopped answering.")

    @staticmethod
    def _parse(text: str) -> dict[str, str]:
        word = re.match(r"<(\w+)", text)
        return {
            "word": word[1] if word else "",
            **dict(re.findall(r"(\w+)=([-\d.]+)", text)),
        }

    def ask(self) -> dict[str, str]:
        """Return the controller's status."""
        self.status = {}
        self._write(b"?")
        while not self.status:
            self._listen()
        return self.status

    def resume(self) -> None:
        """Go on after a hold, or where a program waits."""
        self._write(b"~")

    def reset(self) -> None:
        """Stop at once and drop what is queued; the beam goes off."""
        self._write(b"\x18")
        self._under_way.clear()
        self._used = 0
