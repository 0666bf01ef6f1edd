"""A controller as its link sees it: a small receive buffer, states, single bytes.

It speaks the open line protocol of small motion controllers (from memory): lines are
answered by ``ok`` or ``error:n`` in their order, as they are taken from a receive buffer
of 128 bytes into a plan of some blocks; bytes that find no room are lost. Single bytes
act at once. What it says of itself beyond the protocol is one field of its status,
``Clk``: seconds by its own clock, which a pace may let run faster than the day's.
"""

import re
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace

from standins.controller.interpreter import NO_CONTACT, FaultError
from standins.controller.machine import Machine, Settings
from standins.controller.registers import Registers

RECEIVES = 128
"""Bytes of the receive buffer."""
GREETING = "Stand-in 1.1 ['$' for help]"
LOCKED = "[MSG:'$H'|'$X' to unlock]"
_HOMING_S = 2.0
_PROBE_FAILED = 5
_OFFSETS_EVERY = 10
_REAL_TIME = frozenset(b"?!~\x18") | frozenset(range(0x80, 0xA0))
_ANY_REAL_TIME = re.compile(rb"[?!~\x18\x80-\x9f]")
_JOG_WORD = re.compile(r"([GXYZF])([-+]?[0-9]*\.?[0-9]+)")
_FEED, _POWER = range(0x90, 0x95), range(0x99, 0x9E)
_BY = (0, 10, -10, 1, -1)
_LEAST, _MOST = 10, 200


class Device:
    """What stands behind the port.

    Parameters
    ----------
    settings : Settings
        The machine's data.
    say : callable
        Takes each line it answers.
    pace : float
        How much faster its clock runs; 0: without end.
    """

    def __init__(
        self, settings: Settings, say: Callable[[str], None], pace: float = 0.0
    ) -> None:
        self.machine = Machine(settings)
        self.registers = Registers()
        self.pace = pace
        self._say = say
        self.lost = 0
        self.taken = 0
        self.last_line = 0.0
        self._fresh()
        self._alarm = 0
        self._reports = 0

    def _fresh(self) -> None:
        self._received = bytearray()
        self._overlong = False
        self._checking = self._asleep = self._door = self._jogging = False
        self._settles = 0.0
        self._trim = [100, 100]
        self.machine.feed_share = self.machine.power_share = 1.0

    def become(self, settings: Settings) -> None:
        """Be another machine, at rest, a fresh blank on its bed."""
        before = self.machine
        self.machine = Machine(settings)
        if before.settings.tool == settings.tool:  # what it was touched off at stays
            self.machine.stand_at(before)
        self._received.clear()
        self._jogging, self._alarm = False, 0

    # What comes in

    def receive(self, data: bytes) -> None:
        """Take bytes as they come in."""
        if not _ANY_REAL_TIME.search(data):
            self._store(data)
            return
        for byte in data:
            if byte in _REAL_TIME:
                self._act(byte)
            else:
                self._store(bytes((byte,)))

    def _store(self, data: bytes) -> None:
        while data:
            room = RECEIVES - len(self._received)
            self._received += data[:room]
            data = data[room:]
            before = len(self._received)
            self.take_lines()
            if data and len(self._received) == before:
                if b"\n" in self._received:
                    self.lost += len(data)
                    return
                # What is no line within the whole buffer is none at all.
                self._received.clear()
                self._overlong = True

    def take_lines(self) -> None:
        """Take lines out of the buffer while the plan has room for them."""
        while self._ready() and (end := self._received.find(b"\n")) >= 0:
            text = self._received[:end].decode("ascii", "replace").strip("\r ")
            del self._received[: end + 1]
            self.last_line = time.monotonic()
            self.taken += 1
            try:
                self._line(text)
            except FaultError as fault:
                self._say(f"error:{fault.code}")
            else:
                self._say("ok")

    def _ready(self) -> bool:
        return not self.full and not self._asleep

    @property
    def full(self) -> bool:
        """Whether the plan has room for no further block."""
        return self.machine.queued >= self.machine.settings.look_ahead

    def _line(self, text: str) -> None:
        if self._overlong:
            self._overlong = False
            raise FaultError(11)
        if text.startswith("$"):
            self._statement(text.upper().replace(" ", ""))
        elif self._alarm or (self._jogging and self.machine.queued):
            raise FaultError(9)
        elif self._checking:
            self._try(text)
        else:
            self._jogging = False
            self._take(text)

    def _take(self, text: str) -> None:
        try:
            self.machine.take(text)
        except FaultError as fault:
            if fault.code != NO_CONTACT:
                raise
            self.alarm(_PROBE_FAILED)
        if self.machine.touched is not None:
            x, y, z = self.machine.touched
            self.machine.touched = None
            self._say(f"[PRB:{x:.3f},{y:.3f},{z:.3f}:1]")

    def _try(self, text: str) -> None:
        """Read a line in check mode: nothing moves."""
        state = replace(self.machine.words)
        state.line(text)

    # Statements

    def _statement(self, text: str) -> None:
        if text in ("$", "$$"):
            for line in self.registers.listed(self.machine.settings):
                self._say(line)
        elif text == "$I":
            blocks = self.machine.settings.look_ahead
            self._say("[VER:1.1.stand-in:]")
            self._say(f"[OPT:V,{blocks},{RECEIVES}]")
        elif text == "$G":
            self._say(self._modes())
        elif text == "$#":
            self._say(f"[G54:0.000,0.000,{self.machine.words.offset_z:.3f}]")
            self._say("[G92:{:.3f},{:.3f},0.000]".format(*self._offsets()))
        elif text.startswith("$J="):
            self._jog(text[3:])
        else:
            self._while_idle(text)

    def _while_idle(self, text: str) -> None:
        if self.machine.queued or self.machine.held:
            raise FaultError(8)
        if text == "$X":
            if self._alarm:
                self._alarm = 0
                self._say("[MSG:Unlocked]")
        elif text == "$H":
            if not self.registers.value(22, self.machine.settings):
                raise FaultError(3)
            self.home()
        elif text == "$C":
            self._checking = not self._checking
            self._say(f"[MSG:{'Enabled' if self._checking else 'Disabled'}]")
            if not self._checking:
                self.reset()
        elif text == "$SLP":
            self._asleep = True
        elif found := re.fullmatch(r"\$(\d{1,3})=([-+0-9.]{1,12})", text):
            with suppress(ValueError):
                self._change(int(found[1]), float(found[2]))
                return
            raise FaultError(2)
        else:
            raise FaultError(3)

    def _change(self, number: int, value: float) -> None:
        machine = self.machine
        machine.settings = self.registers.change(number, value, machine.settings)
        machine.words.s_max = machine.settings.s_max

    def home(self) -> None:
        """Find the switches: the head is where it starts, and knows it."""
        self._alarm = 0
        self.machine.slip = 0.0, 0.0
        self.machine.move_to(0.0, 0.0)
        self.machine.held = False
        if self.pace:
            time.sleep(min(_HOMING_S / self.pace, 0.2))

    def _jog(self, text: str) -> None:
        if self._alarm or (self.machine.queued and not self._jogging):
            raise FaultError(8)
        words = dict[str, float]()
        absolute, unit = self.machine.words.absolute, self.machine.words.unit
        for letter, number in _JOG_WORD.findall(text):
            if letter != "G":
                words[letter] = float(number)
            elif float(number) in (90, 91, 53):
                absolute = float(number) != 91
            elif float(number) in (20, 21):
                unit = 25.4 if float(number) == 20 else 1.0
        if not words.get("F") or not words.keys() & {"X", "Y", "Z"}:
            raise FaultError(16)
        self._begin_jog(words, absolute=absolute, unit=unit)

    def _begin_jog(self, words: dict[str, float], *, absolute: bool, unit: float) -> None:
        state = self.machine.words
        x, y = state.x, state.y
        told = words.get("X", 0.0) * unit, words.get("Y", 0.0) * unit * state.y_factor
        if absolute:
            x = told[0] if "X" in words else x
            y = told[1] if "Y" in words else y
        else:
            x, y = x + told[0], y + told[1]
        if self.registers.value(20, self.machine.settings) and not self._within(x, y):
            raise FaultError(15)
        self._jogging = True
        if "Z" in words:
            state.z = (state.offset_z if absolute else state.z) + words["Z"] * unit
        self.machine.jog(x, y, words["F"] * unit / 60)

    def _within(self, x: float, y: float) -> bool:
        """Whether a place lies within the travel; an axis may run either way."""
        wide, deep = self.machine.settings.travel
        hair = 1e-6
        return (not wide or abs(x) <= wide + hair) and (not deep or abs(y) <= deep + hair)

    # Single bytes

    def _act(self, byte: int) -> None:
        if byte == ord("?"):
            self._say(self.status())
        elif byte == 0x18:
            self.reset()
        elif byte in (ord("!"), 0x84):
            self._door = byte == 0x84
            self._hold()
        elif byte == ord("~"):
            if not self._alarm:
                self._door = self.machine.held = False
        elif byte == 0x85:
            if self._jogging:
                self._hold()
                self.machine.stop()
                self.machine.held = self._jogging = False
        elif byte in _FEED or byte in _POWER:
            self._override(byte)

    def _hold(self) -> None:
        seconds = self.machine.brake()
        if self.pace:
            self._settles = time.monotonic() + seconds / self.pace

    def _override(self, byte: int) -> None:
        at = int(byte in _POWER)
        by = _BY[byte - (_POWER if at else _FEED)[0]]
        self._trim[at] = min(max(self._trim[at] + by, _LEAST), _MOST) if by else 100
        self.machine.feed_share = self._trim[0] / 100
        self.machine.power_share = self._trim[1] / 100

    def reset(self) -> None:
        """Drop everything. While it moves, it forgets where it is: an alarm."""
        moving = self.machine.speed > 0 and not self.machine.held
        moving = moving or time.monotonic() < self._settles
        self.machine.brake()
        self.machine.stop()
        self.machine.held = False
        if moving:
            self.machine.slip = self.machine.slip[0] + 0.3, self.machine.slip[1] - 0.2
            self.alarm(3)
        self._fresh()
        self._say(GREETING)
        if self._alarm:
            self._say(LOCKED)

    def alarm(self, number: int) -> None:
        """Stop for a reason of the machine's own; lines are refused from now on."""
        self.machine.brake()
        self.machine.stop()
        self.machine.held = False
        self._alarm = number
        self._say(f"ALARM:{number}")

    # What it says of itself

    def state(self) -> str:
        """Return the word of its state."""
        machine = self.machine
        if self._alarm:
            return "Alarm"
        if self._asleep:
            return "Sleep"
        braking = int(time.monotonic() < self._settles)
        if machine.held:
            return f"{'Door' if self._door else 'Hold'}:{braking}"
        if self._checking:
            return "Check"
        if machine.queued:
            return "Jog" if self._jogging else "Run"
        return "Idle"

    def status(self) -> str:
        """Return a status report."""
        machine, settings = self.machine, self.machine.settings
        inch = 25.4 if self.registers.value(13, settings) else 1.0
        x, y, z = (value / inch for value in machine.place_mm)
        free = settings.look_ahead - machine.queued, RECEIVES - len(self._received)
        rate = machine.speed * 60 / inch
        power = machine.power_now * settings.s_max
        fields = [
            self.state(),
            f"MPos:{x:.3f},{y:.3f},{z:.3f}",
            f"Bf:{free[0]},{free[1]}",
            f"FS:{rate:.0f},{power:.0f}",
        ]
        if self._reports % _OFFSETS_EVERY == 0:
            offsets = (*self._offsets(), machine.words.offset_z)
            fields.append("WCO:{:.3f},{:.3f},{:.3f}".format(*(v / inch for v in offsets)))
            fields.append(f"Ov:{self._trim[0]},100,{self._trim[1]}")
        self._reports += 1
        fields.append(f"Clk:{machine.clock_s:.3f}")
        return f"<{'|'.join(fields)}>"

    def _offsets(self) -> tuple[float, float]:
        return self.machine.words.offset_x, self.machine.words.offset_y

    def _modes(self) -> str:
        state = self.machine.words
        inch, way = "G20" if state.unit != 1 else "G21", "G90" if state.absolute else "G91"
        speed = f"F{state.feed * 60 / state.unit:.0f} S{state.s:.0f}"
        return f"[GC:G{state.motion} G54 G17 {inch} {way} G94 M{state.beam} M9 T0 {speed}]"

    # Motion

    def advance(self, seconds: float, patience_s: float) -> float:
        """Move for at most so many seconds of its clock; return how many it took."""
        waiting = time.monotonic() - self.last_line < patience_s
        waiting = waiting and not self.machine.words.ended and not self._jogging
        data = self.machine.settings
        # What may still be followed by more is run only while the plan is full behind it.
        keep = data.look_ahead - data.between_plans if waiting else 0
        taken = 0.0
        while taken < seconds and (step := self.machine.run(seconds - taken, keep=keep)):
            taken += step
            self.take_lines()
        if self._jogging and not self.machine.queued:
            self._jogging = False
        return taken
