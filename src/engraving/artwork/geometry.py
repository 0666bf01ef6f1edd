"""Where each dot looks in the file: corners, turns, mirror, tilt and crop as one map.

Every map is a homography, a 3 × 3 matrix that takes ``(x, y, 1)`` to
``(x', y', 1)·w``; points are measured in pixels or dots from the top left
corner, so a pixel's middle lies at one half.

Source: Hartley & Zisserman, Multiple View Geometry, 2nd ed., section 2.3 and
table 2.1; section 4.1 for the solution from four points.
"""

import math

import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import ArtworkPart

Matrix = NDArray[np.float64]


def squaring(part: ArtworkPart) -> Matrix:
    """Return the map from the squared-up picture to the file, in pixels."""
    if part.corners is None:
        return np.eye(3)
    width, height = part.flat_px
    flat = np.array([(0, 0), (width, 0), (width, height), (0, height)], np.float64)
    file = [(x * part.width_px, y * part.height_px) for x, y in part.corners]
    return homography(flat, np.array(file))


def homography(source: NDArray[np.floating], target: NDArray[np.floating]) -> Matrix:
    """Return the map that takes four points to four others, both of shape (4, 2)."""
    rows = []
    for (x, y), (u, v) in zip(source.tolist(), target.tolist(), strict=True):
        rows.append([x, y, 1, 0, 0, 0, -u * x, -u * y, -u])
        rows.append([0, 0, 0, x, y, 1, -v * x, -v * y, -v])
    _, _, vectors = np.linalg.svd(np.array(rows, np.float64))
    matrix = vectors[-1].reshape(3, 3)
    return np.asarray(matrix / matrix[2, 2])


def turning(part: ArtworkPart) -> Matrix:
    """Return the map from the turned and mirrored picture to the squared-up one."""
    width, height = part.flat_px
    out = np.eye(3)
    for _ in range(part.turns):
        # Clockwise once: its x runs down the old left edge, its y along the old bottom.
        out = out @ np.array([[0, 1, 0], [-1, 0, height], [0, 0, 1]], np.float64)
        width, height = height, width
    if part.mirror:
        out = out @ np.array([[-1, 0, width], [0, 1, 0], [0, 0, 1]], np.float64)
    return out


def levelling(part: ArtworkPart) -> Matrix:
    """Return the map from the levelled window to the turned picture."""
    width, height = part.turned_px
    across, down = part.level_px
    angle = math.radians(part.straighten_deg)
    cos, sin = math.cos(angle), math.sin(angle)
    # The picture turns clockwise, so each point looks back anticlockwise.
    turn = np.array([[cos, sin, 0], [-sin, cos, 0], [0, 0, 1]])
    return _shift(width / 2, height / 2) @ turn @ _shift(-across / 2, -down / 2)


def level_to_file(part: ArtworkPart) -> Matrix:
    """Return the map from the levelled picture, uncropped, to the file, in pixels."""
    return squaring(part) @ turning(part) @ levelling(part)


def grid_to_file(part: ArtworkPart, cols: int, rows: int) -> Matrix:
    """Return the map from the burn grid, in dots, to the file, in pixels."""
    left, top, across, down = part.window_px
    crop = np.array([[across / cols, 0, left], [0, down / rows, top], [0, 0, 1]])
    return level_to_file(part) @ crop


def grid_to_shares(part: ArtworkPart, cols: int, rows: int) -> Matrix:
    """Return the map from the burn grid to shares of the file, as edits are kept."""
    shares = np.diag([1 / part.width_px, 1 / part.height_px, 1.0])
    return shares @ grid_to_file(part, cols, rows)


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


def _shift(x: float, y: float) -> Matrix:
    return np.array([[1, 0, x], [0, 1, y], [0, 0, 1]], np.float64)
