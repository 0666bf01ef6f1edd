"""Histograms for people: few bars, the ends counted apart."""

from dataclasses import dataclass

import cv2
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


def code_counts(
    codes: NDArray[np.uint8] | NDArray[np.uint16],
    mask: NDArray[np.uint8] | None = None,
) -> NDArray[np.float64]:
    """Return how often each of the 256 codes occurs, shape (256,).

    Codes of sixteen bits count by their upper eight. With a mask only what it
    keeps at least half of counts.
    """
    if codes.dtype == np.uint16:
        codes = (codes >> 8).astype(np.uint8)
    kept = None if mask is None else (mask >= 128).view(np.uint8)
    counts = cv2.calcHist([codes], [0], kept, [256], [0, 256])
    return np.asarray(counts, np.float64).ravel()


def counts_through(
    counts: NDArray[np.float64], table: NDArray[np.uint8]
) -> NDArray[np.float64]:
    """Return the counts after a 256-entry table, without looking at the picture."""
    return np.asarray(np.bincount(table, weights=counts, minlength=256), np.float64)


def histogram(codes: NDArray[np.uint8], mask: NDArray[np.uint8] | None = None) -> Histogram:
    """Return the histogram of sRGB codes, shape (rows, cols), inside a mask."""
    return summary(code_counts(codes, mask))


def summary(counts: NDArray[np.float64]) -> Histogram:
    """Return the histogram of counted codes, shape (256,)."""
    total = max(float(counts.sum()), 1.0)
    bars = counts.reshape(BARS, -1).sum(axis=1) / total
    mean = float((counts * np.arange(256)).sum() / total)
    return Histogram(
        tuple(float(bar) for bar in bars),
        float(counts[0] / total),
        float(counts[255] / total),
        mean,
    )
