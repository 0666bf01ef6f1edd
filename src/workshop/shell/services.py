"""Numbers as people type and read them."""

from engraving.errors import EngravingError
from engraving.units import PARSERS

Error = EngravingError

_PLACES = {"mm": 1, "mm/s": 1, "mm/min": 0, "%": 1, "dpi": 1, "°": 1, "": 2}


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


def show_time(seconds: float) -> str:
    """Return m:ss under an hour, h:mm:ss above."""
    whole = round(seconds)
    hours, rest = divmod(whole, 3600)
    minutes, left = divmod(rest, 60)
    return f"{hours}:{minutes:02d}:{left:02d}" if hours else f"{minutes}:{left:02d}"


def show_bytes(size: int) -> str:
    """Return a file size in KB or MB."""
    return f"{size / 1e6:.1f} MB" if size >= 1e6 else f"{max(size / 1e3, 0.1):.1f} KB"
