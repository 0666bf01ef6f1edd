"""Histograms for people: few bars, the ends counted apart."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

BARS = 64


@dataclass(frozen=True)
class Histogram:
    """Tones of a picture.

    Attributes
    ----------
    bars : tuple of float
        64 shares of the picture, 0..1, each of four codes.
    black, white : float
        Shares of pure black and pure white, 0..1.
    mean : float
        Mean code, 0..255.
    """

    bars: tuple[float, ...]
    black: float
    white: float
    mean: float


def histogram(codes: NDArray[np.uint8]) -> Histogram:
    """Return the histogram of sRGB codes of any shape."""
    counts = np.bincount(codes.ravel(), minlength=256)
    return _summary(counts)


def mapped_histogram(codes: NDArray[np.uint8], table: NDArray[np.uint8]) -> Histogram:
    """Return the histogram of `codes` after a 256-entry table, from counts alone."""
    counts = np.bincount(codes.ravel(), minlength=256)
    return _summary(np.bincount(table, weights=counts, minlength=256))


def _summary(counts: NDArray[np.floating] | NDArray[np.integer]) -> Histogram:
    total = max(float(counts.sum()), 1.0)
    bars = counts.reshape(BARS, -1).sum(axis=1) / total
    mean = float((counts * np.arange(256)).sum() / total)
    return Histogram(
        tuple(float(bar) for bar in bars),
        float(counts[0] / total),
        float(counts[255] / total),
        mean,
    )
