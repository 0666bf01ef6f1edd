"""Colours of untouched and burned substrate, mixed in linear light."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engraving.artwork.light import to_coded, to_linear
from engraving.spec import Polarity, SubstratePart

STEPS = 4096
_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])


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
        return np.take(self.rgb, marks >> 4, axis=0)


def substrate_palette(substrate: SubstratePart, top: float = 1.0) -> Palette:
    """Return the palette of a substrate's ground and mark colours.

    ``top`` is the mark that the last entry stands for: 1 a full one, 2 one
    that is scorched all through.
    """
    ground, mark = _linear(substrate.ground), _linear(substrate.mark)
    if top == 1:
        return _between(ground, mark)
    return _along(ground, mark, _linear(substrate.scorch))


def dot_palette(polarity: Polarity) -> Palette:
    """Return the palette of the Dots view: ink on paper, or chalk on slate."""
    paper, ink = _linear("#f7f3ea"), _linear("#1b1714")
    return _between(paper, ink) if polarity == Polarity.DARKENS else _between(ink, paper)


def _linear(colour: str) -> NDArray[np.float64]:
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    return to_linear(np.array(parts))


def _between(ground: NDArray[np.float64], mark: NDArray[np.float64]) -> Palette:
    return _along(ground, mark)


def _along(*colours: NDArray[np.float64]) -> Palette:
    """Return the palette that leads through colours of linear light."""
    place, stops = np.linspace(0, 1, STEPS), np.linspace(0, 1, len(colours))
    mixed = np.stack(
        [np.interp(place, stops, [colour[k] for colour in colours]) for k in range(3)],
        axis=1,
    )
    return Palette(np.rint(to_coded(mixed) * 255).astype(np.uint8), mixed @ _LUMINANCE)
