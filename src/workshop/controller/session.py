"""One machine: its open port, and what it is asked to do. One thread owns it.

Whatever ends a program other than well (a line refused, an alarm, silence, a stop) ends
it in one way: hold, wait for rest, reset. So nothing that is buffered burns on.
"""

import logging
import re
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

from workshop.controller import protocol
from workshop.controller.errors import LinkError
from workshop.controller.link import Link
from workshop.controller.orders import Orders
from workshop.controller.port import Port, open_port
from workshop.controller.program import Program, RowTable
from workshop.controller.protocol import Heard
from workshop.controller.reported import reported, unit_mm
from workshop.controller.streaming import Kind, Streaming
from workshop.controller.transcript import Transcript
from workshop.controller.watch import Guarded
from workshop.controller.words import alarm_sentence, error_sentence

MOST_FAINT = 5.0
"""More than so many percent is no faint beam; it would mark."""
FAINT_S = 30.0
_BUSY_S, _CALM_S = 0.08, 0.1
_ANSWERED_S = 90.0
_MESSAGES = 40
_ATTEMPTS, _BETWEEN_S = 3, 0.4
_KEPT_S = 0.6
"""So long a jog goes on while nobody says that its button is still held."""

MOST_LIFT_MM, _LIFT_MM_S = 5.0, 2.0
MOST_PROBE_MM, _PROBE_MM_S = 60.0, 1.0

_MESSAGE = re.compile(r"\[MSG:(.{1,200})\]", re.IGNORECASE)

Opener = Callable[[], Port]
_log = logging.getLogger(__name__)


class Session:
    """A machine and its port.

    Parameters
    ----------
    address : str
        See `port.open_port`.
    baud : int
        Of a serial port.
    opener : callable, optional
        Opens the port; a test's own.
    allowed : tuple of str
        Hosts that may be reached beyond this machine.
    """

    def __init__(
        self,
        address: str,
        baud: int = 115200,
        opener: Opener | None = None,
        allowed: tuple[str, ...] = (),
    ) -> None:
        self.address = address
        self._open = opener or (lambda: open_port(address, baud, allowed))
        self._orders = Orders()
        self._link: Link | None = None
        self._guard: Guarded | None = None
        self._stream: Streaming | None = None
        self._touched = False
        self._last: Streaming | None = None
        self._stop_wanted = self._stop_hard = False
        self._settings: dict[int, float] = {}
        self._messages: list[dict[str, Any]] = []
        self._fault = ""
        self._alarm = 0
        self._beam_until = 0.0
        self._answers: list[Heard] | None = None
        self._ending = False
        self._kept_until = 0.0
        self._refused_names: set[str] = set()
        self._trims = (100, 100, 100)
        self.transcript = Transcript()
        self._thread = threading.Thread(target=self._live, daemon=True)
        self._thread.start()

    # From any thread

    def ask(self, act: Callable[[], Any], wait_s: float = _ANSWERED_S) -> Any:
        """Let the session's thread do something; return what comes of it.

        Raises
        ------
        LinkError
            When it cannot be done, or takes too long.
        """
        return self._orders.ask(act, wait_s)

    def stop(self, name: str = "", *, hard: bool = False) -> None:
        """Stop whatever moves: the first byte goes out here and now.

        Parameters
        ----------
        name : str
            What is to be stopped; it does not begin any more, where it has not yet.
        hard : bool
            Reset at once, without waiting for rest; the machine may lose its place.
        """
        if name:
            self._refused_names.add(name)
        if (link := self._link) is not None:
            # Without a port nothing moves, and what comes later was not meant.
            self._stop_wanted, self._stop_hard = True, self._stop_hard or hard
            with suppress(LinkError):
                link.now(protocol.HOLD)
                if hard:
                    link.now(protocol.RESET)

    def end_jog(self) -> None:
        """End a jog at once."""
        self._kept_until = 0.0
        if (link := self._link) is not None:
            with suppress(LinkError):
                link.now(protocol.END_JOG)

    def snapshot(self) -> dict[str, Any]:
        """Return what a page shows of the machine."""
        link, stream = self._link, self._stream or self._last
        return {
            "address": self.address,
            "connected": link is not None,
            "guarded": self._guard is not None and self._guard.alive,
            "fault": self._fault,
            "alarm": alarm_sentence(self._alarm) if self._alarm else "",
            "beam_s": max(self._beam_until - time.monotonic(), 0.0),
            "messages": list(self._messages),
            "busy": self._stream is not None,
            "touched": self._touched,
            "program": stream.told() if stream else None,
            **reported(link, self._settings, self._trims),
        }

    def program(self, name: str) -> dict[str, Any] | None:
        """Return how a program goes, or went last; None where it is not known."""
        for stream in (self._stream, self._last):
            if stream is not None and stream.name == name:
                return stream.told()
        return None

    def end(self) -> None:
        """Begin to stop what moves and to let go of the port."""
        self._ending = True

    def close(self, wait_s: float = 10.0) -> None:
        """End, and wait until it has ended."""
        self.end()
        self._thread.join(wait_s)

    def keep(self) -> None:
        """Let the jog under way last as long as somebody says so."""
        self._kept_until = time.monotonic() + _KEPT_S

    # On the session's thread

    def connect(self) -> None:
        """Open the port, greet, and learn buffer, unit and power range."""
        for attempt in range(_ATTEMPTS):
            try:
                self._connect_once()
            except LinkError:
                # A port that is held by a guard, or by who went just now, is free soon.
                if attempt == _ATTEMPTS - 1 or self._ending:
                    raise
                time.sleep(_BETWEEN_S)
            else:
                return

    def _connect_once(self) -> None:
        if self._link is not None:
            return
        self._fault = ""
        port = self._open()
        link = Link(port, self.transcript, self._heard)
        self._guard = Guarded(port)
        self._link = link
        try:
            link.greet()
            self._leave_hold(link)
            self.learn()
        except LinkError as error:
            self._let_go(str(error))
            raise

    def _leave_hold(self, link: Link) -> None:
        """Drop what somebody before left in the controller's plan."""
        if link.status is not None and link.status.state in ("hold", "door", "run", "jog"):
            link.stop_orderly()
            link.settle()

    def learn(self) -> None:
        """Read buffer and settings; one that knows none of it is taken as usual."""
        for line in ("$I", "$$"):
            with suppress(LinkError):
                for heard in self.say(line, 5.0):
                    if heard.kind == "setting":
                        self._settings[heard.number] = heard.value

    def known_settings(self) -> dict[str, Any]:
        """Ask the machine for its settings and its buffer anew."""
        link = self._connected()
        self.learn()
        numbers = {str(number): value for number, value in self._settings.items()}
        return {"settings": numbers, "bytes": link.capacity, "blocks": link.blocks}

    def disconnect(self) -> None:
        """Let go of the port; not while something runs."""
        if self._stream is not None:
            raise LinkError("The machine is busy.")
        if self._beam_until:
            self._put_beam_out()
        self._let_go("")

    def say(self, line: str, wait_s: float = 10.0) -> list[Heard]:
        """Send one line while nothing else runs; return what came before its answer.

        Raises
        ------
        LinkError
            When it is refused, or not answered in time.
        """
        link = self._connected()
        if self._stream is not None and not self._stream.at_rest:
            raise LinkError("The machine is busy.")
        answers: list[Heard] = []
        self._answers = answers
        until = time.monotonic() + wait_s
        link.put([line.encode("ascii") + b"\n"])
        try:
            while time.monotonic() < until:
                if self._stop_wanted or self._ending:
                    raise LinkError("It was stopped.")
                link.ask(_CALM_S)
                link.listen(wait_s)
                for heard in answers:
                    if heard.kind == "ok":
                        return answers[:-1]
                    if heard.kind == "error":
                        why = error_sentence(heard.number)
                        raise LinkError(f"The machine refuses: {why}.", refused=True)
                    if heard.kind == "alarm":
                        raise LinkError(alarm_sentence(heard.number))
            link.forget()
            raise LinkError("The machine did not answer.")
        finally:
            self._answers = None

    def home(self) -> None:
        """Find home."""
        self.say("$H", 60.0)
        self._cleared()

    def unlock(self) -> None:
        """Go on after an alarm without finding home."""
        self.say("$X")
        self._cleared()

    def _cleared(self) -> None:
        """Know that no alarm holds it, by a report that comes after."""
        self._alarm = 0
        self._connected().settle()

    def jog(self, x_mm: float, y_mm: float, speed_mm_s: float, *, to: bool = False) -> None:
        """Creep by so much, or to a place in the machine's frame."""
        line = protocol.jog(x_mm, y_mm, speed_mm_s, to=to).decode().strip()
        self.say(line, 5.0)

    def lift(self, z_mm: float) -> None:
        """Move the lens up by so much, or down."""
        if abs(z_mm) > MOST_LIFT_MM:
            raise LinkError(f"The lens is moved by at most {MOST_LIFT_MM:g} mm at a time.")
        self.say(protocol.lift(z_mm, _LIFT_MM_S).decode().strip(), 5.0)

    def touch(self) -> None:
        """Let the tool touch the piece where it is now: its height is zero there."""
        self.say(protocol.TOUCHES_HERE, 5.0)
        self._touched = True
        self._message("Touched off: the height is zero here.")

    def probe(self, deepest_mm: float) -> None:
        """Go down until a probe touches, at most so far; that height is zero."""
        if not 0 < deepest_mm <= MOST_PROBE_MM:
            raise LinkError(f"A probe goes down by {MOST_PROBE_MM:g} mm at most.")
        down, back = protocol.probe(deepest_mm, _PROBE_MM_S)
        try:
            self.say(down, 60.0)
        finally:
            self.say(back, 5.0)
        self.touch()

    def faint(self, percent: float, seconds: float = FAINT_S) -> None:
        """Switch a faint beam on, which goes out by itself; 0 switches it off."""
        if not 0 <= percent <= MOST_FAINT:
            raise LinkError(f"A faint beam has at most {MOST_FAINT:g} %.")
        if not percent:
            self._put_beam_out()
            return
        word = round(percent / 100 * (self._settings.get(30) or 1000), 2)
        self.say(f"M3 S{word:g}")
        self.say("G1 F600")
        self._beam_until = time.monotonic() + min(seconds, FAINT_S)

    def _put_beam_out(self) -> None:
        self._beam_until = 0.0
        self.say("M5 S0")
        self.say("G0")

    def start(
        self,
        kind: Kind,
        name: str,
        program: Program,
        rows: RowTable,
        journal: Path | None = None,
    ) -> None:
        """Send a program; what runs must have ended.

        The walk that goes round already goes on: its file is read anew each round.
        """
        link, under_way = self._connected(), self._stream
        if under_way is not None and under_way.name == name and under_way.kind == "walk":
            return
        if under_way is not None:
            raise LinkError("The machine is busy.")
        if self._alarm or (link.status is not None and link.status.state == "alarm"):
            why = (
                alarm_sentence(self._alarm) if self._alarm else "It is locked by an alarm."
            )
            raise LinkError(why)
        if self._beam_until:
            self._put_beam_out()
        if name in self._refused_names or self._stop_wanted:
            raise LinkError("It was stopped before it began.")
        self._stream = Streaming(kind, name, program, rows, journal)
        self._stream.note(last=True)

    def hold(self) -> None:
        """Hold after the row that was begun; asked for again, at once."""
        link, stream = self._connected(), self._stream
        if stream is None:
            return
        if stream.state == "running" and stream.kind == "burn":
            stream.hold_after_row()
            return
        stream.held_now()
        link.now(protocol.HOLD)

    def go_on(self) -> None:
        """Go on after a hold, or where the program waits."""
        link, stream = self._connected(), self._stream
        if (
            stream is not None
            and stream.asks
            and stream.kind == "burn"
            and not self._touched
        ):
            raise LinkError(
                f"Touch {stream.asks} off first: its tip is not where the last's was."
            )
        if self._beam_until:
            self._put_beam_out()
        if stream is None or stream.resume():
            link.go_on()

    def trim(self, what: str, by: int) -> None:
        """Trim speed or power by a step in percent; 0 is back to what the job says."""
        table = protocol.FEED if what == "speed" else protocol.POWER
        if by not in table:
            raise LinkError("Trims are steps of 1 or 10 %.")
        self._connected().now(table[by])

    def _connected(self) -> Link:
        if self._link is None:
            self.connect()
        if self._link is None:
            raise LinkError("The controller does not answer.")
        return self._link

    def _heard(self, heard: Heard) -> None:
        """Take a line that came in."""
        if self._answers is not None and heard.kind != "status":
            self._answers.append(heard)
        status = heard.status
        if status is not None and status.trims is not None:
            self._note_trims(status.trims)
        if heard.kind == "alarm":
            self._alarm = heard.number
            sentence = alarm_sentence(heard.number)
            self._message(sentence)
            if self._stream is not None:
                self._stream.alarms.append((round(self._stream.elapsed_s, 1), sentence))
            self._fail(sentence)
        elif heard.kind == "error" and self._stream is not None and self._answers is None:
            self._fail(self._refusal(heard.number, self._stream))
        elif heard.kind == "greeting" and self._stream is not None:
            self._fail("The machine started anew by itself.")
        elif heard.kind == "probed" and self._stream is not None:
            self._stream.probed.append(round(heard.value * unit_mm(self._settings), 4))
        elif heard.kind == "message" and (said := _MESSAGE.match(heard.text)):
            self._message(said[1])

    def _refusal(self, number: int, stream: Streaming) -> str:
        link = self._link
        if link is None:
            return f"The machine refuses: {error_sentence(number)}."
        text, at = (
            link.told.decode("ascii", "replace").strip(),
            stream.line_of(link.answered),
        )
        return f"The machine refused line {at}, “{text[:40]}”: {error_sentence(number)}."

    def _note_trims(self, trims: tuple[int, ...]) -> None:
        if trims[:3] != self._trims:
            self._trims = (trims[0], trims[1], trims[2])
            if self._stream is not None:
                elapsed = round(self._stream.elapsed_s, 1)
                self._stream.trims.append((elapsed, trims[0], trims[2]))

    def _message(self, text: str) -> None:
        self._messages = [{"at": time.time(), "text": text}, *self._messages][:_MESSAGES]

    def _fail(self, sentence: str) -> None:
        if self._stream is not None and not self._stream.ended:
            self._stream.end("failed", sentence)

    def _live(self) -> None:
        while not self._ending:
            self._orders.take(self._told_of_fault, wait=self._link is None)
            if self._link is None:
                continue
            try:
                self._turn(self._link)
            except LinkError as error:
                self._let_go(str(error))
            except Exception as error:  # noqa: BLE001 (whatever it is, the beam goes out)
                _log.exception("the session of %s failed", self.address)
                self._let_go(f"The link has a fault ({error}); the machine was stopped.")
        self._leave()

    def _told_of_fault(self, fault: LinkError) -> None:
        """Let a page see why something that was asked for was not done."""
        if self._link is not None and not fault.refused:
            self._message(str(fault))

    def _turn(self, link: Link) -> None:
        stream = self._stream
        link.ask(_BUSY_S if stream is not None or self._beam_until else _CALM_S)
        if stream is not None and not stream.ended:
            stream.feed(link)
        link.listen()
        if stream is not None:
            self._look_after(link, stream)
        elif self._stop_wanted:
            self._stop_idle(link)
        if self._beam_until and time.monotonic() > self._beam_until:
            self._put_beam_out()
        if self._kept_until and time.monotonic() > self._kept_until:
            self._kept_until = 0.0
            link.now(protocol.END_JOG)

    def _look_after(self, link: Link, stream: Streaming) -> None:
        if self._stop_wanted:
            stream.end("stopped")
        if stream.ended and stream.state != "done":
            if not self._stop_hard:
                link.stop_orderly()
            self._finish(stream)
            return
        asked = stream.asks
        stream.follow(link)
        if stream.asks and not asked:
            self._touched = False
            self._message(f"Take {stream.asks} up, and touch it off.")
        stream.note()
        if stream.ended:
            self._finish(stream)

    def _finish(self, stream: Streaming) -> None:
        stream.note(last=True)
        if stream.state == "failed" and stream.journal is not None:
            with suppress(OSError):
                stream.journal.with_suffix(".transcript").write_text(self.transcript.text())
        if stream.kind == "burn" and stream.state == "done":
            self._touched = False  # another piece lies there next
        self._last, self._stream = stream, None
        self._stop_wanted = self._stop_hard = False

    def _stop_idle(self, link: Link) -> None:
        """Stop a jog or a beam while no program runs."""
        if not self._stop_hard:
            link.stop_orderly()
        self._beam_until = 0.0
        self._stop_wanted = self._stop_hard = False

    def _let_go(self, fault: str) -> None:
        """Close a port that failed; what can still be told to stop is told."""
        link, self._link = self._link, None
        self._touched = False
        self._fault, self._beam_until = fault, 0.0
        self._fail(fault)
        if link is not None:
            for byte in (protocol.HOLD, protocol.RESET):
                with suppress(LinkError):
                    link.now(byte)
        if self._guard is not None:
            self._guard.dismiss()
            self._guard = None
        if link is not None:
            with suppress(OSError):
                link.close()
        if self._stream is not None:
            self._finish(self._stream)

    def _leave(self) -> None:
        """End in good order: what moves is stopped first."""
        if self._link is None:
            return
        if self._stream is not None:
            self._stream.end("failed", "The machine link was ended; this was broken off.")
        with suppress(LinkError):
            if self._stream is not None or self._beam_until:
                self._link.stop_orderly()
        self._let_go("")
