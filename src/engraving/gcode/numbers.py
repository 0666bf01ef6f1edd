"""Numbers as G-code has them: no exponents, no trailing zeros."""

from numba import njit


@njit(cache=True, nogil=True)
def put_number(text, at, value, decimals):  # type: ignore[no-untyped-def]
    """Write value·10^-decimals without trailing zeros; returns the next place."""
    if value < 0:
        text[at] = 45
        at += 1
        value = -value
    unit = 1
    for _ in range(decimals):
        unit *= 10
    whole, part = value // unit, value % unit
    power = 1
    while power * 10 <= whole:
        power *= 10
    while power > 0:
        text[at] = 48 + (whole // power) % 10
        at += 1
        power //= 10
    if part:
        text[at] = 46
        at += 1
        while part:
            unit //= 10
            text[at] = 48 + part // unit
            at += 1
            part %= unit
    return at
