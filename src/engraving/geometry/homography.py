"""Maps that keep straight lines straight.

A homography is a 3 × 3 matrix that takes ``(x, y, 1)`` to ``(x', y', 1)·w``.

Source: Hartley & Zisserman, Multiple View Geometry, 2nd ed., section 2.3 and
table 2.1; section 4.1 for the solution from four points (OpenCV's takes single
precision only, which is too coarse for a map from dots to a large file).
"""

import math

import numpy as np
from numpy.typing import NDArray

Matrix = NDArray[np.float64]


def homography(source: NDArray[np.floating], target: NDArray[np.floating]) -> Matrix:
    """Return the map that takes four points to four others, both of shape (4, 2)."""
    rows = []
    for (x, y), (u, v) in zip(source.tolist(), target.tolist(), strict=True):
        rows.append([x, y, 1, 0, 0, 0, -u * x, -u * y, -u])
        rows.append([0, 0, 0, x, y, 1, -v * x, -v * y, -v])
    _, _, vectors = np.linalg.svd(np.array(rows, np.float64))
    matrix = vectors[-1].reshape(3, 3)
    return np.asarray(matrix / matrix[2, 2])


def mapped(matrix: Matrix, points: NDArray[np.floating]) -> NDArray[np.float64]:
    """Return points of shape (n, 2) taken through a map."""
    ones = np.ones((len(points), 1))
    found = np.hstack([np.asarray(points, np.float64), ones]) @ matrix.T
    return np.asarray(found[:, :2] / found[:, 2:])


def scale_at(matrix: Matrix, x: float, y: float) -> float:
    """Return how much a map enlarges lengths at a point: the root of its Jacobian."""
    step = 0.5
    around = np.array([(x, y), (x + step, y), (x, y + step)])
    here, right, down = mapped(matrix, around)
    a, b = (right - here) / step, (down - here) / step
    return math.sqrt(abs(float(a[0] * b[1] - a[1] * b[0])))


def shift(x: float, y: float) -> Matrix:
    """Return the map that moves points."""
    return np.array([[1, 0, x], [0, 1, y], [0, 0, 1]], np.float64)
