"""What a controller says and hears: the open line protocol, parsed and spelled.

From memory of that protocol, as small motion controllers speak it: lines answered by
``ok`` or ``error:n`` in their order; ``ALARM:n``, ``[MSG:…]``, greetings and status
reports between them; single bytes that act at once. Nothing here reads a port.
"""

import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

ASK, HOLD, GO_ON, RESET = b"?", b"!", b"~", b"\x18"
DOOR, END_JOG = b"\x84", b"\x85"
FEED = {0: b"\x90", 10: b"\x91", -10: b"\x92", 1: b"\x93", -1: b"\x94"}
POWER = {0: b"\x99", 10: b"\x9a", -10: b"\x9b", 1: b"\x9c", -1: b"\x9d"}
"""Single bytes that trim speed and power; 0 is back to what the job says."""

SMALLEST_BUFFER = 128
"""Bytes every controller of this kind receives without losing any."""

_STATES = {"idle", "run", "hold", "jog", "alarm", "door", "check", "home", "sleep"}
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)")
_ANSWER = re.compile(r"(error|alarm):\s*(\d{1,4})?")
_OPTIONS = re.compile(r"\[OPT:[^,\]]*,(\d{1,9}),(\d{1,9})", re.IGNORECASE)
_SETTING = re.compile(r"\$(\d{1,3})=([-+]?\d*\.?\d+)")
_PROBED = re.compile(
    r"\[PRB:[-+0-9.]+,[-+0-9.]+,([-+]?[0-9]+\.?[0-9]*)(?:,[-+0-9.]+)*:1\]", re.IGNORECASE
)
_GREETING = re.compile(
    r".*\['?\$'? for help\]|^\w[\w .-]{1,30} \d+\.\d+\w?\b.*\$", re.IGNORECASE
)


@dataclass(frozen=True)
class Status:
    """One status report; what it does not tell is None.

    Attributes
    ----------
    state : str
        In lower case, one of the protocol's states, without what follows a colon.
    part : int
        What follows the colon: of hold and door 0 once it is at rest.
    machine, work : tuple of float, optional
        Where the head is, in the machine's frame and from job zero, in the unit that
        the controller reports in.
    offset : tuple of float, optional
        Job zero in the machine's frame.
    blocks, room : int, optional
        Free places in the plan, free bytes in the receive buffer.
    feed, power : float, optional
        Speed a minute, and the S word of the beam as it is now.
    trims : tuple of int, optional
        Feed, rapid and power in percent.
    pins : str
        Switches that are pressed.
    clock_s : float, optional
        Seconds by a clock of the controller's own, where it has one.
    """

    state: str
    part: int = 0
    machine: tuple[float, ...] | None = None
    work: tuple[float, ...] | None = None
    offset: tuple[float, ...] | None = None
    blocks: int | None = None
    room: int | None = None
    feed: float | None = None
    power: float | None = None
    trims: tuple[int, ...] | None = None
    pins: str = ""
    clock_s: float | None = None

    @property
    def rests(self) -> bool:
        """Whether nothing moves."""
        return self.state in ("idle", "alarm", "check", "sleep") or (
            self.state in ("hold", "door") and self.part == 0
        )


@dataclass(frozen=True)
class Heard:
    """One line of a controller, told apart.

    Attributes
    ----------
    kind : str
        ``ok``, ``error``, ``alarm``, ``status``, ``greeting``, ``setting``, ``options``,
        ``message``, ``probed``, or ``noise`` for what is none of these.
    number : int
        Of an error, an alarm or a setting.
    value : float
        Of a setting; of what was probed the height, in the machine's frame.
    status : Status, optional
        Of a report.
    blocks, bytes : int
        Of options: places in the plan, bytes of the receive buffer.
    text : str
        The line as it came.
    """

    kind: str
    text: str
    number: int = 0
    value: float = 0.0
    status: Status | None = None
    blocks: int = 0
    bytes: int = 0


_OK = Heard("ok", "ok")


def parse(line: bytes) -> Heard:
    """Tell a line of a controller apart; whatever came, something is returned."""
    if line.strip() == b"ok":
        return _OK
    text = line.decode("ascii", "replace").strip()[:400]
    low = text.lower()
    if low == "ok":
        return Heard("ok", text)
    if found := _ANSWER.match(low):
        return Heard(found[1], text, number=int(found[2] or 0))
    return _report(text, low)


def _report(text: str, low: str) -> Heard:
    """Tell apart what is no answer."""
    if low.startswith("<") and low.endswith(">"):
        status = parse_status(text)
        return Heard("status" if status else "noise", text, status=status)
    if found := _SETTING.fullmatch(text.split(" ", maxsplit=1)[0]):
        return Heard("setting", text, number=int(found[1]), value=_finite(found[2]))
    if found := _OPTIONS.match(text):
        return Heard("options", text, blocks=int(found[1]), bytes=int(found[2]))
    if found := _PROBED.fullmatch(text):
        return Heard("probed", text, value=_finite(found[1]))
    if _GREETING.fullmatch(text):
        return Heard("greeting", text)
    return Heard("message" if low.startswith("[") else "noise", text)


def parse_status(text: str) -> Status | None:
    """Return a status report, None where it is damaged.

    A field that cannot be read is left out: the report may have lost bytes.
    """
    first, *fields = text.strip("<> ").split("|")
    word, _, part = first.lower().partition(":")
    if word not in _STATES:
        return None
    told: dict[str, str] = {}
    for one in fields:
        name, _, value = one.partition(":")
        told[name.strip().lower()] = value
    places = {
        name: _numbers(told.get(short, ""), 2)
        for name, short in (("machine", "mpos"), ("work", "wpos"), ("offset", "wco"))
    }
    room, rates = _numbers(told.get("bf", ""), 2), _numbers(told.get("fs", ""), 2)
    rates = rates or _numbers(told.get("f", ""), 1)
    trims, clock = _numbers(told.get("ov", ""), 3), _numbers(told.get("clk", ""), 1)
    return Status(
        state=word,
        part=int(part) if part.isdecimal() and len(part) < 4 else 0,
        **places,
        blocks=int(room[0]) if room else None,
        room=int(room[1]) if room else None,
        feed=rates[0] if rates else None,
        power=rates[1] if rates and len(rates) > 1 else None,
        trims=tuple(int(one) for one in trims) if trims else None,
        pins=told.get("pn", "")[:20],
        clock_s=clock[0] if clock else None,
    )


def _numbers(text: str, least: int) -> tuple[float, ...] | None:
    """Return comma-separated numbers, None unless there are so many and all are sound."""
    parts = text.split(",") if text else []
    if len(parts) < least or not all(_NUMBER.fullmatch(one.strip()) for one in parts):
        return None
    found = tuple(_finite(one) for one in parts)
    return found if all(abs(one) < 1e9 for one in found) else None


def _finite(text: str) -> float:
    value = float(text)
    return value if math.isfinite(value) else 0.0


@dataclass
class Place:
    """Where the head is, put together from reports that tell only parts of it."""

    offset: tuple[float, ...] = (0.0, 0.0, 0.0)
    machine: tuple[float, ...] | None = None
    _told: bool = field(default=False, repr=False)

    def take(self, status: Status) -> None:
        """Learn from a report; places in work coordinates need an offset told before."""
        if status.offset is not None:
            self.offset, self._told = _three(status.offset), True
        if status.machine is not None:
            self.machine = _three(status.machine)
        elif status.work is not None:
            work = _three(status.work)
            self.machine = tuple(a + b for a, b in zip(work, self.offset, strict=True))


def _three(values: tuple[float, ...]) -> tuple[float, ...]:
    return (*values[:3], 0.0, 0.0)[:3]


def lift(z_mm: float, speed_mm_s: float) -> bytes:
    """Return the line of a jog of the lens alone: up by so much, or down."""
    return f"$J=G21G91Z{z_mm:.3f}F{speed_mm_s * 60:.0f}\n".encode()


TOUCHES_HERE = "G10L20P1Z0"
"""Let the height be zero where the tool is, for good (G54, from memory)."""


def probe(deepest_mm: float, speed_mm_s: float) -> tuple[str, str]:
    """Return the lines that go down until the tool touches, at most so far."""
    return f"G21G91G38.2Z{-deepest_mm:.3f}F{speed_mm_s * 60:.0f}", "G90"


def probe_places(
    steps_mm: Sequence[tuple[float, float]],
    first_mm: float,
    lift_mm: float,
    speed_mm_s: float,
) -> Iterator[str]:
    """Yield the lines that probe where the tool is, and after each step.

    Parameters
    ----------
    steps_mm : sequence of (x, y)
        From each place to the next, in the machine's frame.
    first_mm : float
        How far down the first touches at most.
    lift_mm : float
        So far up before each step; what it goes down at most is twice that.
    speed_mm_s : float
        Down.
    """
    yield probe(first_mm, speed_mm_s)[0]
    yield f"G0Z{lift_mm:.3f}"
    for x, y in steps_mm:
        yield f"G0X{x:.3f}Y{y:.3f}"
        yield f"G38.2Z{-2 * lift_mm:.3f}F{speed_mm_s * 60:.0f}"
        yield f"G0Z{lift_mm:.3f}"
    yield "G90"
    yield "M2"


def jog(x_mm: float, y_mm: float, speed_mm_s: float, *, to: bool = False) -> bytes:
    """Return the line of a jog: by so much, or to a place in the machine's frame.

    Parameters
    ----------
    x_mm, y_mm : float
        Way, or place, in mm.
    speed_mm_s : float
        How fast.
    to : bool
        Whether x and y are a place.
    """
    way = "G53G90" if to else "G91"
    return f"$J=G21{way}X{x_mm:.3f}Y{y_mm:.3f}F{speed_mm_s * 60:.0f}\n".encode()
