"""Numbers as people type and read them."""

import re
from collections.abc import Callable
from contextvars import ContextVar

from engraving.errors import EngravingError
from engraving.units import MM_PER_INCH, PARSERS, parse_length

Error = EngravingError


inches_shown: ContextVar[bool] = ContextVar("inches_shown", default=False)
"""Whether this operator reads lengths in inches; set for each request."""

operator: ContextVar[Callable[[], str]] = ContextVar("operator", default=str)
"""Names who is signed in; empty where nobody has to be. Set for each request."""

_FINER_IN_INCHES = 2


def length_unit() -> str:
    """Return the unit lengths are shown in."""
    return "in" if inches_shown.get() else "mm"


def shown_length(value_mm: float) -> float:
    """Return a length in the unit it is shown in."""
    return value_mm / MM_PER_INCH if inches_shown.get() else value_mm


def length_places(places: int) -> int:
    """Return the decimals of a length that has `places` in mm."""
    return places + _FINER_IN_INCHES if inches_shown.get() else places


def show_length(value_mm: float, places: int) -> str:
    """Return a length with its unit, and exactly so many decimals in mm."""
    return f"{shown_length(value_mm):.{length_places(places)}f} {length_unit()}"


def show_lengths(first_mm: float, second_mm: float, places: int) -> str:
    """Return two lengths as width × height with their unit."""
    decimals = length_places(places)
    first, second = shown_length(first_mm), shown_length(second_mm)
    return f"{first:.{decimals}f} × {second:.{decimals}f} {length_unit()}"


_LENGTHS = re.compile(
    r"(?<![\w.])(-?\d+(?:\.\d+)?)((?:\s?(?:×|,|of|to|and)\s?-?\d+(?:\.\d+)?)*)"
    r"(?=\s+mm(?![\w/²³]))"
)
_NUMBER = re.compile(r"-?\d+(?:\.\d+)?")


def in_shown_unit(text: str) -> str:
    """Return a sentence of the core with its lengths in the operator's unit.

    Examples
    --------
    >>> in_shown_unit("25.4 × 12.7 mm at 300 mm/s")
    '25.4 × 12.7 mm at 300 mm/s'
    """
    if not inches_shown.get():
        return text

    def told(match: re.Match[str]) -> str:
        return _NUMBER.sub(_in_inches, match[0])

    return re.sub(r"(?<=\d)\s+mm(?![\w/²³])", " in", _LENGTHS.sub(told, text))


def _in_inches(match: re.Match[str]) -> str:
    places = len(match[0].partition(".")[2]) + _FINER_IN_INCHES
    return f"{float(match[0]) / MM_PER_INCH:.{places}f}"


def show_at(x_mm: float, y_mm: float) -> str:
    """Return a place as x, y with its unit."""
    places = length_places(1)
    x, y = shown_length(x_mm), shown_length(y_mm)
    return f"{x:.{places}f}, {y:.{places}f} {length_unit()}"


def read_length(text: str) -> float:
    """Return a typed-in length in mm; a bare number is in the operator's unit.

    Raises
    ------
    EngravingError
        When it cannot be read.
    """
    return parse_length(text, default=length_unit())


def read_quantity(text: str, unit: str) -> float:
    """Return a typed-in quantity in the unit's own measure.

    Raises
    ------
    EngravingError
        When it cannot be read.
    """
    return PARSERS[unit](text)


def show_number(value: float, places: int) -> str:
    """Return a number with up to `places` decimals, one at least where it has any.

    Trailing zeros go, so that 80.0 reads 80 and 0.1000 reads 0.1.
    """
    text = f"{value:.{places}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


def show_short(value_mm: float, places: int) -> str:
    """Return a length with its unit, and up to so many decimals in mm."""
    text = show_number(shown_length(value_mm), length_places(places))
    return f"{text} {length_unit()}"


def show_time(seconds: float) -> str:
    """Return m:ss under an hour, h:mm:ss above."""
    whole = round(seconds)
    hours, rest = divmod(whole, 3600)
    minutes, left = divmod(rest, 60)
    return f"{hours}:{minutes:02d}:{left:02d}" if hours else f"{minutes}:{left:02d}"
