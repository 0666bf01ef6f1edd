"""The stand-in on two loopback ports: the line protocol, and the witness.

A port has one owner, as a serial one does: who comes second finds it closed.
"""

import contextlib
import socket
import socketserver
import threading
import time
from typing import Any, Self

from standins.controller.device import GREETING, Device
from standins.controller.machine import Settings
from standins.controller.trouble import Trouble
from standins.controller.witness import WitnessHandler

_BREATH_S, _REST_S = 0.005, 0.02
PATIENCE_S = 0.15
"""A pause between lines that ends what comes in: the head stops where it ends."""
_AT_ONCE_S = 60.0
_ANSWERS = ("ok", "error")


class Controller:
    """A device in motion: a thread moves it while bytes come in.

    Parameters
    ----------
    settings : Settings
        The machine's data.
    pace : float
        Simulated seconds in a real second; 0 runs as fast as it can.
    patience_s : float
        How long the next line may be late before the program counts as ended.
    notices_cut : bool
        Whether it holds when its cable is pulled, as boards with a USB port of their
        own do; others run on until nothing is left.
    """

    def __init__(
        self,
        settings: Settings,
        pace: float,
        patience_s: float = PATIENCE_S,
        *,
        notices_cut: bool = True,
    ) -> None:
        self.device = Device(settings, self._say, pace)
        self.pace = pace
        self.lock = threading.Lock()
        self._patience_s = patience_s
        self._notices_cut = notices_cut
        self._trouble: Trouble | None = None
        self._silent = False
        self._owner: socket.socket | None = None
        self._out = bytearray()
        self._answers = 0
        self._stopping = False
        self._thread = threading.Thread(target=self._move, daemon=True)
        self._thread.start()

    def owned_by(self, connection: socket.socket) -> bool:
        """Take a connection, greet; False while another has the port."""
        with self.lock:
            if self._owner is not None:
                return False
            self._owner, self._silent = connection, False
            self._say(GREETING)
            self._send()
            return True

    def left(self) -> None:
        """Notice, or not, that the cable was pulled."""
        with self.lock:
            self._owner = None
            self._out.clear()
            if self._notices_cut and self.device.machine.queued:
                self.device.receive(b"!")

    def receive(self, data: bytes) -> None:
        """Take bytes that came in, and answer."""
        with self.lock:
            if self._silent:
                return
            self.device.receive(data)
            if not self.pace and self.device.full:
                self.device.advance(_AT_ONCE_S, self._patience_s)
            self._send()

    def trouble_with(self, trouble: Trouble) -> None:
        """Let something go wrong after so many answers more."""
        with self.lock:
            self._answers = 0
            self._trouble = trouble
            self._meet_trouble("")
            self._send()

    def close(self) -> None:
        """Stop the moving thread."""
        self._stopping = True
        self._thread.join()

    # All below hold the lock.

    def _say(self, text: str) -> None:
        if text.startswith(_ANSWERS):
            self._answers += 1
        if self._trouble is not None:
            text = self._meet_trouble(text)
        if text and not self._silent:
            self._out += text.encode("latin-1") + b"\n"

    def _send(self) -> None:
        if self._owner is not None and self._out:
            data, self._out = bytes(self._out), bytearray()
            with contextlib.suppress(OSError):
                self._owner.sendall(data)

    def _meet_trouble(self, text: str) -> str:
        """Return what is said instead of a text once something goes wrong."""
        trouble = self._trouble
        if trouble is None or self._answers < trouble.after:
            return text
        if trouble.kind == "slow":
            if text == "ok":
                time.sleep(trouble.amount)
            return text
        if trouble.kind in ("garbage", "extra", "error") and text != "ok":
            return text
        self._trouble = None
        instead = {"garbage": "\xff\x00o\x7f", "extra": "ok\nok", "error": "error:20"}
        if trouble.kind in instead:
            return instead[trouble.kind]
        self._break(trouble)
        return "" if trouble.kind in ("cut", "silence", "power") else text

    def _break(self, trouble: Trouble) -> None:
        device, machine = self.device, self.device.machine
        if trouble.kind in ("cut", "power"):
            self._out += b"o" if trouble.kind == "cut" else b""
            self._send()
            if self._owner is not None:
                with contextlib.suppress(OSError):
                    self._owner.shutdown(socket.SHUT_RDWR)
        if trouble.kind == "silence":
            self._silent = True
        elif trouble.kind == "limit":
            device.alarm(1)
        elif trouble.kind in ("reset", "power"):
            device.reset()
        elif trouble.kind == "steps":
            machine.slip = machine.slip[0] + trouble.amount, machine.slip[1]
        elif trouble.kind == "focus":
            machine.height_off = trouble.amount

    def _move(self) -> None:
        owed, last = 0.0, time.monotonic()
        while not self._stopping:
            now = time.monotonic()
            owed = min(owed + (now - last) * self.pace, 0.5 * max(self.pace, 1.0))
            last = now
            with self.lock:
                budget = owed if self.pace else _AT_ONCE_S
                taken = self.device.advance(budget, self._patience_s)
                owed -= taken
                if not taken and self.pace:
                    self.device.machine.stand(owed)
                    owed = 0.0
                self._send()
            if not taken:
                time.sleep(_REST_S)
            elif self.pace:
                time.sleep(_BREATH_S)


class _LineHandler(socketserver.BaseRequestHandler):
    """One connection to the line protocol."""

    def handle(self) -> None:
        """Greet, then answer until the other side leaves."""
        controller: Controller = self.server.controller  # type: ignore[attr-defined]
        if not controller.owned_by(self.request):
            return
        try:
            while data := self.request.recv(65536):
                controller.receive(data)
        except OSError:
            pass
        finally:
            controller.left()


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
    notices_cut : bool
        Whether it holds when its cable is pulled.
    """

    def __init__(
        self,
        settings: Settings | None = None,
        pace: float = 0.0,
        port: int = 0,
        witness_port: int = 0,
        patience_s: float = PATIENCE_S,
        *,
        notices_cut: bool = True,
    ) -> None:
        self.controller = Controller(
            settings or Settings(), pace, patience_s, notices_cut=notices_cut
        )
        self._servers = [
            _Server(("127.0.0.1", port), _LineHandler, self.controller),
            _Server(("127.0.0.1", witness_port), WitnessHandler, self.controller),
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
