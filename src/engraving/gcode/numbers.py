"""Numbers as G-code has them: no exponents, no trailing zeros."""

import numpy as np
from numba import njit

_TEN = np.uint64(10)


@njit(cache=True, nogil=True)
def put_number(text, at, value, decimals):  # type: ignore[no-untyped-def]
    """Write value·10^-decimals without trailing zeros; returns the next place.

    Digits come from the right, each by a division by ten, which is none to a processor
    where the ten is known beforehand.
    """
    if value < 0:
        text[at] = 45
        at += 1
        value = -value
    rest, places = np.uint64(value), decimals
    while places and rest % _TEN == 0:
        rest //= _TEN
        places -= 1
    digits, bound = 1, _TEN
    while rest >= bound:
        bound *= _TEN
        digits += 1
    digits = max(digits, places + 1)
    place = at + digits + (places > 0)
    after = place
    for _ in range(places):
        place -= 1
        text[place] = 48 + rest % _TEN
        rest //= _TEN
    if places:
        place -= 1
        text[place] = 46
    for _ in range(digits - places):
        place -= 1
        text[place] = 48 + rest % _TEN
        rest //= _TEN
    return after
