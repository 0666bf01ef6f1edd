"""Colours as ``#rrggbb``, as people and pages write them."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from engraving.colour.light import to_coded, to_linear


def codes_of(colour: str) -> tuple[int, int, int]:
    """Return the sRGB codes 0..255 of a colour.

    Examples
    --------
    >>> codes_of("#d9b88a")
    (217, 184, 138)
    """
    red, green, blue = bytes.fromhex(colour.removeprefix("#"))
    return red, green, blue


def written(codes: Sequence[int]) -> str:
    """Return sRGB codes 0..255 as ``#rrggbb``.

    Examples
    --------
    >>> written((217, 184, 138))
    '#d9b88a'
    """
    return "#" + bytes(codes).hex()


def linear_of(colour: str) -> NDArray[np.float64]:
    """Return the linear light 0..1 of a colour, shape (3,)."""
    return to_linear(np.array(codes_of(colour)) / 255)


def of_linear(light: NDArray[np.float64]) -> str:
    """Return linear light 0..1 of shape (3,) as ``#rrggbb``."""
    codes = np.rint(to_coded(light.clip(0, 1)) * 255).astype(int)
    return written(codes.tolist())
