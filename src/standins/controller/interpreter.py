"""Understand G-code lines: words to blocks of motion, with modal state.

Written apart from the program's own reader and writer, from the description
in Kramer, Proctor & Messina 2000 (NISTIR 6556).
"""

import re
from dataclasses import dataclass
from typing import NamedTuple

_WORD = re.compile(r"([A-Z])([-+]?(?:[0-9]+\.?[0-9]*|\.[0-9]+))")
_COMMENT = re.compile(r"\([^()]*\)")
_INCH = 25.4

FAULTS = {
    1: "a word without its letter",
    2: "a number that cannot be read",
    3: "an unknown $ statement",
    4: "a negative value",
    8: "only while the machine is idle",
    9: "locked: an alarm or a jog",
    11: "the line is too long",
    15: "a jog beyond the travel",
    16: "a jog without its words",
    20: "an unknown or unsupported word",
    21: "two words of one group",
    22: "G1 without a feed",
    55: "the probe touched nothing",
}
"""Numbers of the open line protocol of small motion controllers (from memory)."""
LONGEST_LINE = 80
NO_CONTACT = 55


class FaultError(Exception):
    """A line that cannot be understood.

    Parameters
    ----------
    code : int
        Key of `FAULTS`.
    """

    def __init__(self, code: int) -> None:
        super().__init__(FAULTS[code])
        self.code = code


class Block(NamedTuple):
    """One straight motion: mm, mm/s (0 for a rapid), power 0..1, mode, height."""

    x: float
    y: float
    feed: float
    power: float
    follows: bool
    z: float = 0.0


@dataclass
class Interpreter:
    """Modal state of a program.

    Parameters
    ----------
    s_max : float
        The S word of full power.
    y_factor, a_factor : float
        Surface in mm for each mm told on Y and for each degree told on A: what
        a rotary makes of them. Without one A is no word.
    """

    s_max: float = 1000.0
    y_factor: float = 1.0
    a_factor: float = 0.0
    x: float = 0.0
    y: float = 0.0
    z: float = 0.0
    motion: int = 0
    feed: float = 0.0
    s: float = 0.0
    beam: int = 5
    unit: float = 1.0
    absolute: bool = True
    ended: bool = False
    waits: bool = False
    offset_x: float = 0.0
    offset_y: float = 0.0
    offset_z: float = 0.0
    probing: bool = False
    storing: int = 0
    setting: bool = False
    beam_on: bool = False

    def line(self, text: str) -> Block | None:
        """Take one line; return its motion, None where it has none.

        Raises
        ------
        FaultError
            When the line cannot be understood; the state may have changed.
        """
        words = self._words(text)
        if not words:
            return None
        targets: dict[str, float] = {}
        moves = 0
        for letter, value in words:
            if letter == "G":
                moves += self._g(value)
            elif letter == "M":
                self._m(value)
            elif letter in "XYZA":
                targets[letter] = value
            else:
                self._scalar(letter, value)
        if moves > 1:
            raise FaultError(21)
        if self.storing:
            self._store(targets)
            return None
        if self.setting:
            self._set(targets)
            return None
        return self._move(targets) if targets else None

    def _set(self, targets: dict[str, float]) -> None:
        """Call the present place by other coordinates (G92)."""
        self.setting = False
        if "X" in targets:
            self.offset_x = self.x - targets["X"] * self.unit
        if "Y" in targets:
            self.offset_y = self.y - targets["Y"] * self.unit * self.y_factor
        if "A" in targets:
            self.offset_y = self.y - targets["A"] * self.a_factor

    def _store(self, targets: dict[str, float]) -> None:
        """Keep the present height as another one (G10 L20), until it is told anew."""
        if self.storing != 20 or targets.keys() - {"Z"}:
            raise FaultError(20)
        self.storing = 0
        if "Z" in targets:
            self.offset_z = self.z - targets["Z"] * self.unit

    def _words(self, text: str) -> list[tuple[str, float]]:
        if len(text) > LONGEST_LINE:
            raise FaultError(11)
        code = _COMMENT.sub("", text.split(";", maxsplit=1)[0]).upper().replace(" ", "")
        code = code.replace("\t", "").replace("%", "")
        words, at = [], 0
        while at < len(code):
            match = _WORD.match(code, at)
            if not match:
                raise FaultError(2 if code[at].isalpha() else 1)
            words.append((match[1], float(match[2])))
            at = match.end()
        return words

    def _g(self, value: float) -> int:
        if value in (0, 1):
            self.motion = int(value)
            return 1
        if value in (20, 21):
            self.unit = _INCH if value == 20 else 1.0
        elif value in (90, 91):
            self.absolute = value == 90
        elif value == 92:
            self.setting = True
        elif value == 10:
            self.storing = 1
        elif value == 38.2:
            self.probing = True
            return 1
        elif value == 92.1:
            self.offset_x = self.offset_y = 0.0
        elif value not in (4, 17, 94, 54, 64):
            raise FaultError(20)
        return 0

    def _m(self, value: float) -> None:
        if value in (3, 4, 5):
            self.beam = int(value)
        elif value == 0:
            self.waits = True
        elif value in (2, 30):
            self.beam = 5
            self.ended = True
        elif value not in (7, 8, 9):
            raise FaultError(20)

    def _scalar(self, letter: str, value: float) -> None:
        if letter == "S":
            if value < 0:
                raise FaultError(4)
            self.s = value
        elif letter == "F":
            if value < 0:
                raise FaultError(4)
            self.feed = value * self.unit / 60
        elif letter == "L":
            self.storing = int(value)
        elif letter not in "NP":
            raise FaultError(20)

    def _move(self, targets: dict[str, float]) -> Block:
        if (self.motion == 1 or self.probing) and self.feed == 0:
            raise FaultError(22)
        before = self.x
        base = self.offset_x, self.offset_y
        origin_x, origin_y = base if self.absolute else (self.x, self.y)
        if "Z" in targets:
            base_z = self.offset_z if self.absolute else self.z
            self.z = base_z + targets["Z"] * self.unit
        if "X" in targets:
            self.x = origin_x + targets["X"] * self.unit
        if "A" in targets and not self.a_factor:
            raise FaultError(20)
        if "Y" in targets:
            self.y = origin_y + targets["Y"] * self.unit * self.y_factor
        if "A" in targets:
            self.y = origin_y + targets["A"] * self.a_factor
        lit = self.motion == 1 and self.beam in (3, 4)
        power = min(self.s / self.s_max, 1.0) if lit else 0.0
        feed = self.feed if self.motion == 1 else 0.0
        if feed and self.x == before and targets.keys() & {"A", "Y"}:
            # A move of the second axis alone has its feed in that axis's units:
            # degrees a minute, whatever the unit of length.
            feed *= abs(self.a_factor / self.unit if "A" in targets else self.y_factor)
        return Block(self.x, self.y, feed, power, self.beam == 4, self.z)
