"""Colours of untouched and burned substrate, mixed in linear light."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engraving.artwork.light import to_coded, to_linear
from engraving.spec import Polarity, SubstratePart

STEPS = 4096


@dataclass(frozen=True)
class Palette:
    """Colours from untouched to fully marked.

    Attributes
    ----------
    rgb : ndarray of uint8, shape (4096, 3)
        sRGB colours; entry i has a share i/4095 of mark, mixed in linear light.
    """

    rgb: NDArray[np.uint8]

    def paint(self, marks: NDArray[np.uint16]) -> NDArray[np.uint8]:
        """Return colours of marks (65535 = full), shape (rows, cols, 3)."""
        return np.take(self.rgb, marks >> 4, axis=0)


def substrate_palette(substrate: SubstratePart) -> Palette:
    """Return the palette of a substrate's ground and mark colours."""
    return _between(_linear(substrate.ground), _linear(substrate.mark))


def dot_palette(polarity: Polarity) -> Palette:
    """Return the palette of the Dots view: ink on paper, or chalk on slate."""
    paper, ink = _linear("#f7f3ea"), _linear("#1b1714")
    return _between(paper, ink) if polarity == Polarity.DARKENS else _between(ink, paper)


def _linear(colour: str) -> NDArray[np.float64]:
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    return to_linear(np.array(parts))


def _between(ground: NDArray[np.float64], mark: NDArray[np.float64]) -> Palette:
    share = np.linspace(0, 1, STEPS)[:, None]
    mixed = to_coded(ground * (1 - share) + mark * share)
    return Palette(np.rint(mixed * 255).astype(np.uint8))
