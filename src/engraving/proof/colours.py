"""Colours of untouched and burned substrate, mixed in linear light."""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.colour.hexadecimal import linear_of, of_linear
from engraving.colour.light import to_coded
from engraving.colour.lightness import WEIGHTS
from engraving.jobspec import Polarity, SubstratePart
from engraving.strips import in_strips

STEPS = 4096
_BEHIND: Mapping[str, tuple[str, float, float]] = MappingProxyType(
    {
        "white": ("#fbfaf6", 0.8, 0.45),
        "black": ("#0d0d0e", 0.94, 0.12),
        "mirror": ("#c9d2d6", 0.75, 0.1),
        "light": ("#fff1cf", 0.0, 0.85),
    }
)
"""What lies behind: its colour, and its share in ground and mark (own choice)."""


@dataclass(frozen=True)
class Palette:
    """Colours from untouched to fully marked.

    Attributes
    ----------
    rgb : ndarray of uint8, shape (4096, 3)
        sRGB colours; entry i has a share i/4095 of mark, mixed in linear light.
    light : ndarray of float64, shape (4096,)
        Luminance of each, 0..1 (IEC 61966-2-1 primaries).
    """

    rgb: NDArray[np.uint8]
    light: NDArray[np.float64]

    def paint(self, marks: NDArray[np.uint16]) -> NDArray[np.uint8]:
        """Return colours of marks (65535 = full), shape (rows, cols, 3)."""
        out = np.zeros((*marks.shape, 3), np.uint8)
        in_strips(len(marks), lambda a, b: _paint(marks, self.rgb, out, a, b))
        return out


def substrate_palette(substrate: SubstratePart, top: float = 1.0) -> Palette:
    """Return the palette of a substrate's ground and mark colours.

    ``top`` is the mark that the last entry stands for: 1 a full one, 2 one
    that is scorched all through.
    """
    ground, mark = (linear_of(colour) for colour in shown_colours(substrate))
    if top == 1:
        return _between(ground, mark)
    return _along(ground, mark, linear_of(substrate.scorch))


def shown_colours(substrate: SubstratePart) -> tuple[str, str]:
    """Return how ground and mark look with what lies behind them, as #rrggbb.

    A mark in clear material scatters light. On white it is hardly seen, on
    black it shines; on a mirror it is dull among reflections; lit from behind,
    where the ground lets no light pass, it glows.
    """
    share = _BEHIND.get(substrate.backing) if substrate.clear else None
    if share is None:
        return substrate.ground, substrate.mark
    behind, through_ground, through_mark = share
    mixed = [
        of_linear(linear_of(own) * (1 - part) + linear_of(behind) * part)
        for own, part in (
            (substrate.ground, through_ground),
            (substrate.mark, through_mark),
        )
    ]
    return mixed[0], mixed[1]


def dot_palette(polarity: Polarity) -> Palette:
    """Return the palette of the Dots view: ink on paper, or chalk on slate."""
    paper, ink = linear_of("#f7f3ea"), linear_of("#1b1714")
    return _between(paper, ink) if polarity == Polarity.DARKENS else _between(ink, paper)


def _between(ground: NDArray[np.float64], mark: NDArray[np.float64]) -> Palette:
    return _along(ground, mark)


def _along(*colours: NDArray[np.float64]) -> Palette:
    """Return the palette that leads through colours of linear light."""
    place, stops = np.linspace(0, 1, STEPS), np.linspace(0, 1, len(colours))
    mixed = np.stack(
        [np.interp(place, stops, [colour[k] for colour in colours]) for k in range(3)],
        axis=1,
    )
    return Palette(np.rint(to_coded(mixed) * 255).astype(np.uint8), mixed @ WEIGHTS)


@njit(cache=True, nogil=True)
def _paint(marks, rgb, out, begin, end):  # type: ignore[no-untyped-def]
    for y in range(begin, end):
        for x in range(marks.shape[1]):
            place = marks[y, x] >> 4
            out[y, x, 0] = rgb[place, 0]
            out[y, x, 1] = rgb[place, 1]
            out[y, x, 2] = rgb[place, 2]
