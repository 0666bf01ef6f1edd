"""The stand-in on a loopback port, speaking a plain line protocol.

On connecting it greets with one line. Every line sent is answered by ``ok``
or ``error:n`` (n is a key of `interpreter.FAULTS`). Single bytes act at once:
``?`` asks for a status line, ``!`` holds, ``~`` resumes, 0x18 resets.

A status line reads ``<running x=12.300 y=4.000 clock=3.21 queue=17 beam=1.20>``;
its first word is ``idle``, ``running`` or ``held``.

A second port, the witness, is for whoever wants to see what was burned: it
answers one line of JSON with one line of JSON, for a map followed by raw
float32 values. ``{"become": {"acceleration": …, "rapid": …, "s_max": …}}``
makes it another machine, at rest at its origin; what its owner has to find out
stays. ``{"rotary": [mm of Y, mm of A]}`` fits a rotary and leaves the piece where
it is. ``{"photo": {…}}`` and ``{"bed": {…}}`` are answered with a PNG that the
stand-in camera took, of a card and of the whole bed; see `pictures`.
"""

import contextlib
import json
import socket
import socketserver
import threading
import time
from dataclasses import replace
from queue import Empty, SimpleQueue
from typing import Any, Self

from standins.controller.interpreter import FaultError
from standins.controller.machine import Machine, Settings
from standins.controller.pictures import bed_picture, card_picture

GREETING = "Old Ember stand-in controller, version 1"
_BREATH_S = 0.02
PATIENCE_S = 0.15
"""A pause between lines that ends what comes in: the head stops where it ends."""
_QUEUE_FULL = 16384
_TOGETHER = 2048
_LARGEST_MAP = 64_000_000
_LONGEST_QUESTION = 65536


class Controller:
    """A machine in motion: a thread moves it while lines come in.

    Parameters
    ----------
    settings : Settings
        The machine's data.
    pace : float
        Simulated seconds in a real second; 0 runs as fast as it can.
    patience_s : float
        How long the next line may be late before the program counts as ended.
    """

    def __init__(
        self, settings: Settings, pace: float, patience_s: float = PATIENCE_S
    ) -> None:
        self.machine = Machine(settings)
        self.pace = pace
        self._patience_s = patience_s
        self.lock = threading.Lock()
        self._room = threading.Condition(self.lock)
        self._last_line = 0.0
        self._stopping = False
        self._thread = threading.Thread(target=self._move, daemon=True)
        self._thread.start()

    def line(self, text: str) -> str:
        """Take a line and return the answer; waits while the queue is full."""
        with self._room:
            while self.machine.queued >= _QUEUE_FULL and not self._stopping:
                self._room.wait(_BREATH_S)
            self._last_line = time.monotonic()
            try:
                self.machine.take(text)
            except FaultError as fault:
                return f"error:{fault.code}"
        return "ok"

    def realtime(self, byte: int) -> str:
        """Act on a single byte; return what is to be sent, if anything."""
        with self.lock:
            if byte == ord("?"):
                return self._status()
            if byte == ord("!"):
                self.machine.held = True
            elif byte == ord("~"):
                self.machine.held = False
            else:
                self.machine.stop()
                self.machine.held = False
                return GREETING
        return ""

    def _status(self) -> str:
        machine = self.machine
        word = "held" if machine.held else "running" if machine.queued else "idle"
        x, y = machine.position_mm
        return (
            f"<{word} x={x:.3f} y={y:.3f} clock={machine.clock_s:.3f} "
            f"queue={machine.queued} beam={machine.beam_s:.3f}>"
        )

    def close(self) -> None:
        """Stop the moving thread."""
        self._stopping = True
        self._thread.join()

    def _move(self) -> None:
        owed, last = 0.0, time.monotonic()
        while not self._stopping:
            now = time.monotonic()
            owed = min(owed + (now - last) * self.pace, 0.5 * max(self.pace, 1.0))
            last = now
            with self._room:
                budget = owed if self.pace else 60.0
                taken = self.machine.run(budget, keep=self._keep(now))
                owed -= taken
                self._room.notify_all()
            if not taken or self.pace:
                time.sleep(_BREATH_S)

    def _keep(self, now: float) -> int:
        """Return how many blocks to hold back while the program still comes in."""
        waiting = now - self._last_line < self._patience_s and not self.machine.ended
        return self.machine.settings.look_ahead // 2 if waiting else 0


class _LineHandler(socketserver.BaseRequestHandler):
    """One connection to the line protocol.

    Single bytes act while lines still wait for room in the queue, so lines
    are taken by a thread of their own.
    """

    def setup(self) -> None:
        """Prepare what both threads share."""
        self._lines: SimpleQueue[str | None] = SimpleQueue()
        self._speaking = threading.Lock()

    def handle(self) -> None:
        """Greet, then answer until the other side leaves."""
        controller: Controller = self.server.controller  # type: ignore[attr-defined]
        worker = threading.Thread(target=self._work, args=(controller,), daemon=True)
        with contextlib.suppress(ConnectionError):
            self._say(GREETING)
            worker.start()
            pending = bytearray()
            while data := self.request.recv(65536):
                self._take(controller, data, pending)
        self._lines.put(None)

    def _take(self, controller: Controller, data: bytes, pending: bytearray) -> None:
        for byte in data:
            if byte in b"?!~\x18":
                if byte == 0x18:
                    pending.clear()
                    self._forget()
                self._say(controller.realtime(byte))
            elif byte == 0x0A:
                self._lines.put(pending.decode("ascii", "replace").strip())
                pending.clear()
            else:
                pending.append(byte)

    def _forget(self) -> None:
        with contextlib.suppress(Empty):
            while True:
                self._lines.get_nowait()

    def _work(self, controller: Controller) -> None:
        """Answer lines, those that wait together in one go."""
        while (text := self._lines.get()) is not None:
            answers = [controller.line(text)]
            with contextlib.suppress(Empty):
                while len(answers) < _TOGETHER:
                    more = self._lines.get_nowait()
                    if more is None:
                        return
                    answers.append(controller.line(more))
            with contextlib.suppress(OSError):
                self._say("\n".join(answers))

    def _say(self, text: str) -> None:
        if text:
            with self._speaking:
                self.request.sendall(text.encode() + b"\n")


class _WitnessHandler(socketserver.StreamRequestHandler):
    """One question to the witness."""

    def handle(self) -> None:
        """Answer one question."""
        controller: Controller = self.server.controller  # type: ignore[attr-defined]
        with contextlib.suppress(ConnectionError):
            try:
                question = json.loads(self.rfile.readline(_LONGEST_QUESTION))
                answer, data = self._answer(controller, question)
            except (ValueError, KeyError, TypeError, AttributeError):
                answer, data = {"error": "this question is not understood"}, b""
            self.wfile.write(json.dumps(answer).encode() + b"\n" + data)

    def _answer(
        self, controller: Controller, question: dict[str, Any]
    ) -> tuple[dict[str, Any], bytes]:
        machine = controller.machine
        if "become" in question:
            wanted = question["become"]
            settings = replace(
                machine.settings,
                acceleration=float(wanted["acceleration"]),
                acceleration_y=float(wanted.get("acceleration_y", 0)),
                rapid=float(wanted["rapid"]),
                s_max=float(wanted["s_max"]),
                y_factor=float(wanted.get("y_factor", 1)),
                a_factor=float(wanted.get("a_factor", 0)),
                junction=float(wanted.get("junction", 0.01)),
                start=_start(wanted.get("start", (0, 0))),
            )
            with controller.lock:
                controller.machine = Machine(settings)
            return {"became": wanted}, b""
        if "rotary" in question:
            y_factor, a_factor = (float(value) for value in question["rotary"])
            with controller.lock:
                machine.fit_rotary(y_factor, a_factor)
            return {"rotary": [y_factor, a_factor]}, b""
        for name, take in (("photo", card_picture), ("bed", bed_picture)):
            if name in question:
                picture = take(machine, question[name])
                return {"type": "image/png", "bytes": len(picture)}, picture
        if "map" not in question:
            return {"clock_s": machine.clock_s, "beam_s": machine.beam_s}, b""
        wanted = question["map"]
        rows, cols = int(wanted["rows"]), int(wanted["cols"])
        wide, high = (float(side) for side in wanted["cell"])
        degrees, x, y = (float(value) for value in wanted.get("turn", (0, 0, 0)))
        if not 0 < rows * cols <= _LARGEST_MAP:
            raise ValueError
        with controller.lock:
            energy = machine.map(
                float(wanted["left"]),
                float(wanted["front"]),
                (wide, high),
                (rows, cols),
                (degrees, x, y),
            )
        return {"rows": rows, "cols": cols, "type": "<f4"}, energy.tobytes()


def _start(place: Any) -> tuple[float, float]:
    x, y = place
    return float(x), float(y)


class _Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True

    def __init__(
        self,
        address: tuple[str, int],
        handler: type[socketserver.BaseRequestHandler],
        controller: Controller,
    ) -> None:
        self.controller = controller
        super().__init__(address, handler)

    def get_request(self) -> tuple[Any, Any]:
        connection, address = super().get_request()
        connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        return connection, address


class StandIn:
    """Both ports and the machine behind them; a context manager.

    Parameters
    ----------
    settings : Settings
        The machine's data.
    pace : float
        Simulated seconds in a real second; 0 runs as fast as it can.
    port, witness_port : int
        Loopback ports; 0 takes any that is free.
    patience_s : float
        How long the next line may be late.
    """

    def __init__(
        self,
        settings: Settings | None = None,
        pace: float = 0.0,
        port: int = 0,
        witness_port: int = 0,
        patience_s: float = PATIENCE_S,
    ) -> None:
        self.controller = Controller(settings or Settings(), pace, patience_s)
        self._servers = [
            _Server(("127.0.0.1", port), _LineHandler, self.controller),
            _Server(("127.0.0.1", witness_port), _WitnessHandler, self.controller),
        ]
        self._threads = [
            threading.Thread(target=server.serve_forever, daemon=True)
            for server in self._servers
        ]

    @property
    def port(self) -> int:
        """Port of the line protocol."""
        return int(self._servers[0].server_address[1])

    @property
    def witness_port(self) -> int:
        """Port of the witness."""
        return int(self._servers[1].server_address[1])

    def __enter__(self) -> Self:
        for thread in self._threads:
            thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        for server in self._servers:
            server.shutdown()
            server.server_close()
        self.controller.close()
