"""Single-stroke lettering: an alphabet of our own, drawn in straight strokes.

Burned letters on a swatch card must be quick and legible at 1.5 mm; outlines
filled with rows are neither. Each glyph stands on a grid of sixths of the cap
height, baseline at 0, small letters four high, tails two below.
"""

import unicodedata
from collections.abc import Mapping
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

Polyline = NDArray[np.float64]
"""Points of a stroke, shape (n, 2), mm, y away from the operator."""

_CAP = 6
_SPACE = 2.0
_WORD = 2.5

_DRAWN = {
    "0": "1 0 3 0 4 1.5 4 4.5 3 6 1 6 0 4.5 0 1.5 1 0",
    "1": "0.5 4.5 2 6 2 0",
    "2": "0 4.5 1 6 3 6 4 5 4 4 0 0 4 0",
    "3": "0 5 1 6 3 6 4 5 4 4 3 3.2 1.5 3.2|3 3.2 4 2.2 4 1 3 0 1 0 0 1",
    "4": "3 0 3 6 0 1.8 4 1.8",
    "5": "4 6 0.4 6 0 3.2 1 3.8 3 3.8 4 2.8 4 1 3 0 1 0 0 1",
    "6": "3.6 5.6 2.6 6 1 6 0 4.5 0 1 1 0 3 0 4 1 4 2.4 3 3.4 1 3.4 0 2.4",
    "7": "0 6 4 6 1.4 0",
    "8": "1 3.2 0 4.1 0 5 1 6 3 6 4 5 4 4.1 3 3.2 1 3.2 0 2.2 0 1 1 0 3 0 4 1 4 2.2 3 3.2",
    "9": "0.4 0.4 1.4 0 3 0 4 1.5 4 5 3 6 1 6 0 5 0 3.6 1 2.6 3 2.6 4 3.6",
    "A": "0 0 2 6 4 0|0.7 2.1 3.3 2.1",
    "B": "0 0 0 6 2.8 6 3.7 5.2 3.7 4 2.8 3.2 0 3.2|2.8 3.2 4 2.3 4 0.9 3 0 0 0",
    "C": "4 5 3 6 1 6 0 4.6 0 1.4 1 0 3 0 4 1",
    "D": "0 0 0 6 2.4 6 4 4.4 4 1.6 2.4 0 0 0",
    "E": "4 0 0 0 0 6 4 6|0 3.1 3 3.1",
    "F": "0 0 0 6 4 6|0 3.1 3 3.1",
    "G": "4 5 3 6 1 6 0 4.6 0 1.4 1 0 3 0 4 1 4 2.8 2.4 2.8",
    "H": "0 0 0 6|4 0 4 6|0 3.1 4 3.1",
    "I": "1 0 1 6",
    "J": "0 1 1 0 2 0 3 1 3 6",
    "K": "0 0 0 6|4 6 0 2.4|1.3 3.5 4 0",
    "L": "0 6 0 0 4 0",
    "M": "0 0 0 6 2.5 2 5 6 5 0",
    "N": "0 0 0 6 4 0 4 6",
    "O": "1 0 3 0 4 1.4 4 4.6 3 6 1 6 0 4.6 0 1.4 1 0",
    "P": "0 0 0 6 3 6 4 5 4 3.9 3 2.9 0 2.9",
    "Q": "1 0 3 0 4 1.4 4 4.6 3 6 1 6 0 4.6 0 1.4 1 0|2.6 1.6 4.2 -0.4",
    "R": "0 0 0 6 3 6 4 5 4 3.9 3 2.9 0 2.9|2 2.9 4 0",
    "S": "4 5 3 6 1 6 0 5 0 4.2 1 3.3 3 2.8 4 1.9 4 1 3 0 1 0 0 1",
    "T": "2 0 2 6|0 6 4 6",
    "U": "0 6 0 1 1 0 3 0 4 1 4 6",
    "V": "0 6 2 0 4 6",
    "W": "0 6 1.2 0 2.5 4 3.8 0 5 6",
    "X": "0 0 4 6|0 6 4 0",
    "Y": "0 6 2 3 4 6|2 3 2 0",
    "Z": "0 6 4 6 0 0 4 0",
    "a": "0.4 3.6 1 4 2.4 4 3.2 3.2 3.2 0|3.2 2.4 1 2.2 0 1.5 0 0.6 0.8 0 2.2 0 3.2 0.8",
    "b": "0 6 0 0|0 3 1 4 2.2 4 3.2 3 3.2 1 2.2 0 1 0 0 1",
    "c": "3 3.4 2.2 4 1 4 0 3 0 1 1 0 2.2 0 3 0.6",
    "d": "3.2 6 3.2 0|3.2 3 2.2 4 1 4 0 3 0 1 1 0 2.2 0 3.2 1",
    "e": "0 2.1 3.2 2.1 3.2 3 2.3 4 1 4 0 3 0 1 1 0 2.3 0 3 0.6",
    "f": "2.4 6 1.6 6 0.9 5.2 0.9 0|0 4 2.2 4",
    "g": "3.2 4 3.2 -1 2.3 -2 1 -2 0.2 -1.4|3.2 3 2.2 4 1 4 0 3 0 1 1 0 2.2 0 3.2 1",
    "h": "0 6 0 0|0 3 1 4 2.2 4 3.2 3 3.2 0",
    "i": "0.5 0 0.5 4|0.5 5.3 0.5 5.8",
    "j": "1.2 4 1.2 -1.2 0.4 -2 0 -2|1.2 5.3 1.2 5.8",
    "k": "0 6 0 0|2.8 4 0 1.4|1 2.3 3 0",
    "l": "0.5 6 0.5 0",
    "m": "0 4 0 0|0 3 0.9 4 1.7 4 2.5 3 2.5 0|2.5 3 3.4 4 4.2 4 5 3 5 0",
    "n": "0 4 0 0|0 3 1 4 2.2 4 3.2 3 3.2 0",
    "o": "1 0 2.2 0 3.2 1 3.2 3 2.2 4 1 4 0 3 0 1 1 0",
    "p": "0 4 0 -2|0 3 1 4 2.2 4 3.2 3 3.2 1 2.2 0 1 0 0 1",
    "q": "3.2 4 3.2 -2|3.2 3 2.2 4 1 4 0 3 0 1 1 0 2.2 0 3.2 1",
    "r": "0 4 0 0|0 2.8 1 4 2 4",
    "s": "2.9 3.5 2.1 4 0.8 4 0 3.4 0 2.7 0.6 2.2 2.3 1.8 3 1.3 3 0.6 2.2 0 0.8 0 0 0.5",
    "t": "0.9 5.6 0.9 0.8 1.6 0 2.3 0|0 4 2.2 4",
    "u": "0 4 0 1 1 0 2.2 0 3.2 1|3.2 4 3.2 0",
    "v": "0 4 1.6 0 3.2 4",
    "w": "0 4 1 0 2.2 3 3.4 0 4.4 4",
    "x": "0 0 3 4|0 4 3 0",
    "y": "0 4 1.7 0|3.2 4 1 -2 0 -2",
    "z": "0 4 3 4 0 0 3 0",
    ".": "0.3 0 0.3 0.5",
    ",": "0.6 0.6 0.2 -1",
    ":": "0.3 0.6 0.3 1.1|0.3 3 0.3 3.5",
    "-": "0.2 2.6 2.6 2.6",
    "+": "0.2 2.6 3.2 2.6|1.7 1.1 1.7 4.1",
    "/": "0 -0.6 2.8 6.4",
    "%": "0 0 4 6|0.4 6 1.3 6 1.3 4.6 0.4 4.6 0.4 6|2.7 0 3.6 0 3.6 1.4 2.7 1.4 2.7 0",
    "(": "1.4 6.4 0.3 4.8 0.3 0.6 1.4 -1",
    ")": "0 6.4 1.1 4.8 1.1 0.6 0 -1",
    "=": "0.2 1.9 3.2 1.9|0.2 3.4 3.2 3.4",
    "?": "0 5 1 6 2.6 6 3.4 5 3.4 4.2 1.7 2.8 1.7 1.8|1.7 0 1.7 0.5",
    "'": "0.3 6 0.3 4.6",
    "°": "0.4 6 1.4 6 1.8 5.5 1.8 4.9 1.4 4.4 0.4 4.4 0 4.9 0 5.5 0.4 6",
    "×": "0 1 3 4|0 4 3 1",
    "²": "0 5.4 0.6 6 1.5 6 2 5.4 0 3.6 2 3.6",
    "µ": "0 4 0 -2|0 1 1 0 2.2 0 3.2 1|3.2 4 3.2 0",
}  # fmt: skip


def _points(drawn: str) -> tuple[Polyline, ...]:
    return tuple(
        np.array(stroke.split(), np.float64).reshape(-1, 2) / _CAP
        for stroke in drawn.split("|")
    )


GLYPHS: Mapping[str, tuple[Polyline, ...]] = MappingProxyType(
    {letter: _points(drawn) for letter, drawn in _DRAWN.items()}
)
"""The strokes of each letter at a cap height of 1."""


def _spelled(text: str) -> str:
    """Return text in letters of the alphabet; accents go, strangers become '?'."""
    bare = "".join(
        c if c in GLYPHS else unicodedata.normalize("NFD", c)[0]
        for c in " ".join(text.split())
    )
    return "".join(c if c in GLYPHS or c == " " else "?" for c in bare)


def stroke_text(
    text: str, cap_mm: float, x_mm: float = 0.0, y_mm: float = 0.0, *, turned: bool = False
) -> list[Polyline]:
    """Return the strokes of a line of text.

    Parameters
    ----------
    text : str
    cap_mm : float
        Height of a capital.
    x_mm, y_mm : float
        Where its baseline begins.
    turned : bool
        Whether it reads upward, a quarter turn counter-clockwise.
    """
    at = 0.0
    out: list[Polyline] = []
    for letter in _spelled(text):
        out += [(stroke + np.array([at, 0])) * cap_mm for stroke in GLYPHS.get(letter, ())]
        at += _advance(letter)
    if turned:
        out = [np.stack([-stroke[:, 1], stroke[:, 0]], axis=1) for stroke in out]
    return [stroke + np.array([x_mm, y_mm]) for stroke in out]


def stroke_length_mm(text: str, cap_mm: float) -> float:
    """Return the length of a line of text, the gap after its last letter left off."""
    spelled = _spelled(text)
    return (
        max(sum(map(_advance, spelled)) - _SPACE / _CAP, 0.0) * cap_mm if spelled else 0.0
    )


def _advance(letter: str) -> float:
    strokes = GLYPHS.get(letter)
    if not strokes:
        return (_WORD + _SPACE) / _CAP
    return max(float(stroke[:, 0].max()) for stroke in strokes) + _SPACE / _CAP
