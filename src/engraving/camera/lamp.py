"""The light that falls on a thing, as a surface of second order over its picture."""

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float64]

_ROUNDS = 3


def fit_lamp(x: Values, y: Values, seen: Values) -> Values:
    """Return the surface that bare places lie on, by least squares.

    Those that lie more than three times the median from it are left off.

    Parameters
    ----------
    x, y : ndarray, shape (n,)
        Where they lie, as shares 0..1 of the picture's width and height.
    seen : ndarray, shape (n,)
        Their luminance.

    Returns
    -------
    weights : ndarray, shape (6,)
        For `lamp_at`.
    """
    keep = np.ones(len(seen), bool)
    terms = lamp_terms(x, y)
    weights: Values = np.zeros(6)
    for _ in range(_ROUNDS):
        found, *_ = np.linalg.lstsq(terms[keep], seen[keep], rcond=None)
        weights = np.asarray(found)
        off = np.abs(terms @ weights - seen)
        keep = off <= max(3 * float(np.median(off)), 1e-6)
    return weights


def lamp_at(weights: Values, x: Values, y: Values) -> Values:
    """Return the surface at places, as for `fit_lamp`."""
    return np.asarray(lamp_terms(x, y) @ weights)


def lamp_over(weights: Values, rows: int, cols: int) -> Values:
    """Return the surface at the middle of each pixel, y counted up from the last row."""
    x = (np.arange(cols) + 0.5) / cols
    y = 1 - (np.arange(rows) + 0.5) / rows
    across, up = np.meshgrid(x, y)
    return lamp_at(weights, across.ravel(), up.ravel()).reshape(rows, cols)


def lamp_terms(x: Values, y: Values) -> Values:
    """Return the terms of a surface of second order at places, shape (n, 6)."""
    return np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=-1)
