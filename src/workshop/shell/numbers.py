"""Plain numbers out of addresses, hidden fields and buttons, which anyone may write."""

import math

_MOST_DIGITS = 9


def whole(text: str) -> int | None:
    """Return a whole number from 0 on, None where the text is none.

    Digits of other scripts and superscripts are none, and so is what is too
    long to be a number of anything here.
    """
    text = text.strip()
    plain = text.isascii() and text.isdigit() and len(text) <= _MOST_DIGITS
    return int(text) if plain else None


def finite(text: str) -> float:
    """Return a number.

    Raises
    ------
    ValueError
        When the text is none, or none that one can count with.
    """
    value = float(text)
    if not math.isfinite(value):
        raise ValueError(text)
    return value
