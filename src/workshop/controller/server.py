"""The link process: owns every controller, and does what it is asked on a local socket.

It knows no Django and no tables, so neither a locked database nor a full disk nor a
restart of the other processes stops it. Who asks must know the key that lies beside its
address, in a file only this user may read.
"""

import hashlib
import json
import os
import secrets
import socket
import threading
import time
from collections.abc import Callable, Mapping
from contextlib import suppress
from multiprocessing import AuthenticationError
from multiprocessing.connection import Connection, Listener
from pathlib import Path
from typing import IO, Any

from workshop.controller.errors import LinkError
from workshop.controller.ownership import PROCESS, own
from workshop.controller.port import known_ports, refusal
from workshop.controller.program import Program, RowTable
from workshop.controller.session import FAINT_S, Session

ADDRESS_FILE = "link.json"
_BACKLOG = 64
_ENDS_S = 10.0
_Words = Mapping[str, Any]


class LinkServer:
    """All sessions, by the address of their port.

    Parameters
    ----------
    folder : Path
        Where its address and its locks lie.
    allowed : tuple of str
        Hosts that links may reach beyond this machine.
    """

    def __init__(self, folder: Path, allowed: tuple[str, ...] = ()) -> None:
        self._folder = folder
        self._allowed = allowed
        self._sessions: dict[str, Session] = {}
        self._locks: dict[str, IO[str]] = {}
        self._gate = threading.Lock()
        self._key = secrets.token_bytes(32)
        folder.mkdir(parents=True, exist_ok=True)
        self._owned = own(folder, PROCESS)
        # Over loopback TCP the handshake's small messages wait 40 ms for one another.
        family = "AF_UNIX" if hasattr(socket, "AF_UNIX") else "AF_INET"
        self._listener = Listener(family=family, backlog=_BACKLOG, authkey=self._key)
        self._publish()
        self._closing = False

    def _publish(self) -> None:
        """Lay address and key where this user's other processes find them."""
        path = self._folder / ADDRESS_FILE
        fresh = path.with_suffix(".new")
        handle = os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
        with os.fdopen(handle, "w") as stream:
            json.dump({"address": self._listener.address, "key": self._key.hex()}, stream)
        fresh.replace(path)

    def serve(self) -> None:
        """Answer until closed."""
        while not self._closing:
            try:
                connection = self._listener.accept()
            except (OSError, EOFError, AuthenticationError):
                continue
            threading.Thread(target=self._talk, args=(connection,), daemon=True).start()

    def close(self) -> None:
        """Stop everything that moves, then end."""
        self._closing = True
        sessions = list(self._sessions.values())
        for session in sessions:
            session.end()
        until = time.monotonic() + _ENDS_S
        for session in sessions:
            session.close(max(until - time.monotonic(), 0.0))
        with suppress(OSError):
            self._listener.close()
        for stream in (*self._locks.values(), self._owned):
            stream.close()

    def _talk(self, connection: Connection) -> None:
        with suppress(OSError, EOFError), connection:
            while True:
                try:
                    answer = {"ok": self.answer(json.loads(connection.recv_bytes(2**20)))}
                except LinkError as error:
                    answer = {"fault": str(error), "refused": error.refused}
                except (ValueError, KeyError, TypeError, AttributeError):
                    answer = {"fault": "The link does not understand this."}
                connection.send_bytes(json.dumps(answer).encode())

    def answer(self, words: _Words) -> Any:
        """Do what is asked, and return what is answered.

        Raises
        ------
        LinkError
            When it cannot be done.
        """
        do = str(words["do"])
        if do == "ports":
            return known_ports()
        if do == "all":
            return [one.snapshot() for one in list(self._sessions.values())]
        session = self._session(str(words["address"]), int(words.get("baud", 115200)))
        return _DEEDS[do](session, words)

    def _session(self, address: str, baud: int) -> Session:
        with self._gate:
            if address not in self._sessions:
                if why := refusal(address, self._allowed):
                    raise LinkError(why)
                name = hashlib.sha256(address.encode()).hexdigest()[:16]
                self._locks[address] = own(self._folder, name)
                self._sessions[address] = Session(address, baud, allowed=self._allowed)
            return self._sessions[address]


def _start(session: Session, words: _Words) -> None:
    path = Path(words["path"])
    program = Program(
        path,
        dry=bool(words.get("dry")),
        feed_mm_min=float(words.get("feed_mm_min", 0)),
        again=bool(words.get("again")),
    )
    rows = RowTable.read(path.with_suffix(".rows"))
    journal = path.with_suffix(".journal") if words["kind"] == "burn" else None
    name = str(words["name"])
    session.ask(lambda: session.start(words["kind"], name, program, rows, journal))


def _jog(session: Session, words: _Words) -> None:
    x, y, speed = (float(words[name]) for name in ("x_mm", "y_mm", "speed_mm_s"))
    session.ask(lambda: session.jog(x, y, speed, to=bool(words.get("to"))))


def _faint(session: Session, words: _Words) -> None:
    percent, seconds = float(words["percent"]), float(words.get("seconds", FAINT_S))
    session.ask(lambda: session.faint(percent, seconds))


def _settings(session: Session, _: _Words) -> dict[str, Any]:
    return session.ask(session.known_settings)


_DEEDS: dict[str, Callable[[Session, _Words], Any]] = {
    "state": lambda session, _: session.snapshot(),
    "program": lambda session, words: session.program(str(words["name"])),
    "connect": lambda session, _: session.ask(session.connect),
    "disconnect": lambda session, _: session.ask(session.disconnect),
    "home": lambda session, _: session.ask(session.home),
    "unlock": lambda session, _: session.ask(session.unlock),
    "jog": _jog,
    "lift": lambda session, words: session.ask(lambda: session.lift(float(words["z_mm"]))),
    "touch": lambda session, _: session.ask(session.touch),
    "probe": lambda session, words: session.ask(
        lambda: session.probe(float(words["deepest_mm"]))
    ),
    "keep": lambda session, _: session.keep(),
    "end_jog": lambda session, _: session.end_jog(),
    "faint": _faint,
    "settings": _settings,
    "start": _start,
    "hold": lambda session, _: session.ask(session.hold),
    "go_on": lambda session, _: session.ask(session.go_on),
    "trim": lambda session, words: session.ask(
        lambda: session.trim(str(words["what"]), int(words["by"]))
    ),
    "stop": lambda session, words: session.stop(
        str(words.get("name", "")), hard=bool(words.get("hard"))
    ),
    "transcript": lambda session, _: session.transcript.text(),
}
