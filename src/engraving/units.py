"""Lengths, speeds and resolutions, as typed in and as computed with.

Inside the program lengths are mm, speeds mm/s, times s. Inches, mm/min and
dpi exist only here, at the edge.

Sources
-------
1 in = 25.4 mm exactly (international yard and pound agreement, 1959).
1 pt = 1/72 in; 1 thou = 1/1000 in; 1 ft = 12 in.
"""

import math
import re
import unicodedata
from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import NamedTuple

from engraving.errors import InputError

MM_PER_INCH = 25.4
MEGABYTE = 10**6

LENGTH_UNITS: Mapping[str, float] = MappingProxyType(
    {
        "mm": 1.0,
        "cm": 10.0,
        "m": 1000.0,
        **dict.fromkeys(("millimetre", "millimetres", "millimeter", "millimeters"), 1.0),
        **dict.fromkeys(("centimetre", "centimetres", "centimeter", "centimeters"), 10.0),
        **dict.fromkeys(("um", "µm", "micron", "microns"), 0.001),
        **dict.fromkeys(("in", "in.", "inch", "inches", '"'), MM_PER_INCH),
        **dict.fromkeys(("ft", "ft.", "foot", "feet", "'"), 12 * MM_PER_INCH),
        **dict.fromkeys(("pt", "point", "points"), MM_PER_INCH / 72),
        **dict.fromkeys(("thou", "mil", "mils"), MM_PER_INCH / 1000),
    }
)
SPEED_UNITS: Mapping[str, float] = MappingProxyType(
    {
        **dict.fromkeys(("mm/s", "mm/sec"), 1.0),
        "mm/min": 1 / 60,
        "m/s": 1000.0,
        "m/min": 1000 / 60,
        **dict.fromkeys(("in/s", "in/sec"), MM_PER_INCH),
        "in/min": MM_PER_INCH / 60,
    }
)
ANGLE_UNITS: Mapping[str, float] = MappingProxyType({"°": 1.0, "deg": 1.0, "degrees": 1.0})
PERCENT_UNITS: Mapping[str, float] = MappingProxyType({"%": 1.0})
PLAIN_UNITS: Mapping[str, float] = MappingProxyType({})
DOT_UNITS: Mapping[str, float] = MappingProxyType({"dots": 1.0, "dot": 1.0})
DPI_UNITS: Mapping[str, float] = MappingProxyType({"dpi": 1.0})

_TOKEN = re.compile(
    r"\s*(?:(?P<number>(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][-+]?\d+)?)"
    r"|(?P<unit>(?:mm|m|in)/(?:sec|s|min)\b|[a-zA-Zµ]+\.?|[°%\"'])"
    r"|(?P<op>[-+*/()]))"
)
_LONGEST_EXPRESSION = 80
_TWO_WAYS = re.compile(r"[1-9]\d{0,2},\d{3}")
"""A comma that may mark thousands, or the decimals."""


def dpi_to_pitch(dpi: float) -> float:
    """Return the pitch in mm of a resolution in dots per inch.

    Parameters
    ----------
    dpi : float
        Dots per inch, greater than 0.

    Raises
    ------
    InputError
        When `dpi` is not a finite number above 0.
    """
    _require_positive(dpi, "The resolution", "dpi")
    return MM_PER_INCH / dpi


def pitch_to_dpi(pitch_mm: float) -> float:
    """Return the resolution in dots per inch of a pitch in mm (above 0)."""
    _require_positive(pitch_mm, "The row pitch", "mm")
    return MM_PER_INCH / pitch_mm


def size_at_dpi(pixels: int, dpi: float) -> float:
    """Return the length in mm of so many pixels at a resolution in dots per inch.

    Examples
    --------
    >>> round(size_at_dpi(70, 700), 9)
    2.54
    """
    return pixels * dpi_to_pitch(dpi)


def dots_across(size_mm: float, pitch_mm: float) -> int:
    """Return how many dots of `pitch_mm` fit `size_mm`, rounded, halves upward.

    The grid always has at least one dot. A hair of tolerance (1e-9 dots)
    keeps sizes that are exact in decimal from falling on the wrong side of a
    half in binary.
    """
    _require_positive(size_mm, "The size", "mm")
    _require_positive(pitch_mm, "The row pitch", "mm")
    return max(1, math.floor(size_mm / pitch_mm + 0.5 + 1e-9))


def png_density(cell_mm: tuple[float, float]) -> tuple[float, float]:
    """Return dots per inch, both ways, that come out as whole dots a metre."""
    across, down = (pixels_per_metre(pitch) * 0.0254 for pitch in cell_mm)
    return across, down


def pixels_per_metre(pitch_mm: float) -> int:
    """Return a PNG ``pHYs`` density for a pitch (ISO/IEC 15948, unit 1: metre)."""
    return math.floor(1000 / pitch_mm + 0.5)


def parse_length(text: str, *, field: str = "", default: str = "mm") -> float:
    """Return a typed-in length in mm; ``4 1/2 in``, ``109*2`` and ``57/2`` work.

    Parameters
    ----------
    text : str
        Arithmetic with ``+ - * / ( )``, numbers, mixed numbers and units. A
        comma is a decimal comma, unless it may mark thousands. Signs of print,
        as in 3⅜″, are read like those of a keyboard.
    field : str, optional
        Field name carried by the error.
    default : str, optional
        Unit of a bare number.

    Raises
    ------
    InputError
        When the text is no length.
    """
    return _evaluate(text, LENGTH_UNITS, default, field)


def parse_speed(text: str, *, field: str = "", default: str = "mm/s") -> float:
    """Return a typed-in speed in mm/s; see `parse_length` for the grammar."""
    return _evaluate(text, SPEED_UNITS, default, field)


def parse_angle(text: str, *, field: str = "") -> float:
    """Return a typed-in angle in degrees; see `parse_length` for the grammar."""
    return _evaluate(text, ANGLE_UNITS, "deg", field)


def parse_percent(text: str, *, field: str = "") -> float:
    """Return a typed-in percentage; see `parse_length` for the grammar."""
    return _evaluate(text, PERCENT_UNITS, "%", field)


def parse_dpi(text: str, *, field: str = "") -> float:
    """Return a typed-in resolution in dots per inch."""
    return _evaluate(text, DPI_UNITS, "dpi", field)


def parse_dots(text: str, *, field: str = "") -> float:
    """Return a typed-in number of dots."""
    return _evaluate(text, DOT_UNITS, "dots", field)


def parse_number(text: str, *, field: str = "") -> float:
    """Return a typed-in plain number; see `parse_length` for the grammar."""
    return _evaluate(text, PLAIN_UNITS, "", field)


_ALIKE = str.maketrans(
    {
        **dict.fromkeys("″”“„‟〃", '"'),
        **dict.fromkeys("′’‘‛", "'"),
        **dict.fromkeys("−–—", "-"),
        **dict.fromkeys("×∗·✕", "*"),
        **dict.fromkeys("÷∕⁄", "/"),
        **dict.fromkeys("\u00a0\u2007\u2009\u202f", " "),
        "μ": "µ",
    }
)
"""What people paste, as it is typed."""


def _typed(text: str) -> str:
    """Return a text with letters of print as those of a keyboard: 3⅜″ as 3 3/8"."""
    out = ""
    for letter in text:
        parts = unicodedata.decomposition(letter)
        if not parts.startswith("<fraction>"):
            out += letter
            continue
        top, _, bottom = (chr(int(code, 16)) for code in parts.split()[1:4])
        if len(parts.split()) != 4:
            out += letter  # a tenth, or a numerator alone
        elif out.rstrip()[-1:].isdigit():
            out += f" {top}/{bottom}"
        else:
            out += f"({top}/{bottom})"
    return out.translate(_ALIKE).replace("''", '"')


class _Value(NamedTuple):
    """A number and how many length-like units it carries (0 or 1)."""

    number: float
    power: int


class _Parser:
    """Recursive descent over one typed-in expression."""

    def __init__(self, text: str, units: Mapping[str, float], field: str) -> None:
        self.text = text
        self.typed = _typed(text)
        self.units = units
        self.field = field
        self.tokens = self._tokenise(self.typed)
        self.at = 0

    def fail(self) -> InputError:
        example = "12.5, 25/2 or 4 1/2 in" if "in" in self.units else "12.5 or 25/2"
        return InputError(
            f"“{self.text.strip()}” cannot be read as a number; "
            f"type something like {example}.",
            field=self.field,
        )

    def _tokenise(self, text: str) -> list[tuple[str, str]]:
        if not text.strip():
            raise InputError("A number is needed here.", field=self.field)
        if len(text) > _LONGEST_EXPRESSION:
            raise InputError(
                f"This is too long to be a number: {len(text)} characters.",
                field=self.field,
            )
        tokens, position = [], 0
        trimmed = text.rstrip()
        while position < len(trimmed):
            match = _TOKEN.match(trimmed, position)
            if not match:
                raise self.fail()
            tokens.append((match.lastgroup or "", match.group(match.lastgroup or 0)))
            position = match.end()
        return tokens

    def peek(self, *expected: str) -> bool:
        return self.at < len(self.tokens) and self.tokens[self.at][1] in expected

    def kind(self, offset: int = 0) -> str:
        index = self.at + offset
        return self.tokens[index][0] if index < len(self.tokens) else ""

    def take(self) -> str:
        if self.at >= len(self.tokens):
            raise self.fail()
        self.at += 1
        return self.tokens[self.at - 1][1]

    def whole(self) -> _Value:
        value = self.sum()
        if self.at != len(self.tokens):
            raise self.fail()
        return value

    def sum(self) -> _Value:
        value = self.product()
        while self.peek("+", "-"):
            sign = 1 if self.take() == "+" else -1
            other = self.product()
            if other.power != value.power:
                raise self.fail()
            value = _Value(value.number + sign * other.number, value.power)
        return value

    def product(self) -> _Value:
        value = self.factor()
        while self.peek("*", "/"):
            operator, other = self.take(), self.factor()
            value = self._times(value, other, operator)
        return value

    def _times(self, left: _Value, right: _Value, operator: str) -> _Value:
        if operator == "*":
            if left.power and right.power:
                raise self.fail()
            return _Value(left.number * right.number, left.power + right.power)
        if right.number == 0:
            raise InputError("This divides by zero.", field=self.field)
        if right.power > left.power:
            raise self.fail()
        return _Value(left.number / right.number, left.power - right.power)

    def factor(self) -> _Value:
        if self.peek("-", "+"):
            sign = -1 if self.take() == "-" else 1
            value = self.factor()
            return _Value(sign * value.number, value.power)
        if self.peek("("):
            self.take()
            value = self.sum()
            if not self.peek(")"):
                raise self.fail()
            self.take()
            return self._with_unit(value)
        return self._feet_and_inches()

    def _feet_and_inches(self) -> _Value:
        value = self._with_unit(_Value(self._mixed_number(), 0))
        while value.power and self.kind() == "number":  # 1' 6"
            more = self._with_unit(_Value(self._mixed_number(), 0))
            if not more.power:
                raise self.fail()
            value = _Value(value.number + more.number, 1)
        return value

    def _with_unit(self, value: _Value) -> _Value:
        if self.kind() != "unit":
            return value
        unit = self.take()
        if unit not in self.units:
            unit = unit.lower()
        if value.power or unit not in self.units:
            raise self.fail()
        return _Value(value.number * self.units[unit], 1)

    def _mixed_number(self) -> float:
        """Read ``4 1/2``, ``1/4"`` or a plain number.

        A fraction binds tighter than a unit, so that ``11 7/8"`` is 11.875 in
        and ``1/4"`` a quarter inch.
        """
        whole = self._number()
        if self._fraction_follows():
            top = self._number()
            self.take()
            bottom = self._number()
            return whole + self._ratio(top, bottom)
        if self._is_plain_fraction():
            self.take()
            return self._ratio(whole, self._number())
        return whole

    def _fraction_follows(self) -> bool:
        kinds = [self.kind(i) for i in range(3)]
        return kinds == ["number", "op", "number"] and (self.tokens[self.at + 1][1] == "/")

    def _is_plain_fraction(self) -> bool:
        return self.peek("/") and self.kind(1) == "number" and self.kind(2) == "unit"

    def _ratio(self, top: float, bottom: float) -> float:
        if bottom == 0:
            raise InputError("This divides by zero.", field=self.field)
        return top / bottom

    def _number(self) -> float:
        if self.kind() != "number":
            raise self.fail()
        word = self.take()
        if _TWO_WAYS.fullmatch(word):
            raise InputError(
                f"“{word}” can be read in two ways; type {word.replace(',', '')} or "
                f"{word.replace(',', '.')}.",
                field=self.field,
            )
        return float(word.replace(",", "."))


def _evaluate(text: str, units: Mapping[str, float], default: str, field: str) -> float:
    value = _Parser(text, units, field).whole()
    number = value.number
    if value.power == 0 and default:
        number *= units[default]
    if not math.isfinite(number):
        raise InputError("This number is too large.", field=field)
    return number


def _require_positive(value: float, what: str, unit: str) -> None:
    if not (math.isfinite(value) and value > 0):
        raise InputError(f"{what} must be above 0 {unit}; it is {value:g} {unit}.")


PARSERS: Mapping[str, Callable[..., float]] = MappingProxyType(
    {
        "mm": parse_length,
        "mm/s": parse_speed,
        "°": parse_angle,
        "%": parse_percent,
        "dpi": parse_dpi,
        "dots": parse_dots,
        "": parse_number,
    }
)
"""How a number field of each unit is read."""
