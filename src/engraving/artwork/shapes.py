"""Frames on the burn grid: how far inside a shape each dot lies."""

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import SizePart
from engraving.strips import in_bands

Rows = Callable[[int, int], NDArray[np.float32]]
"""Gives the rows from one up to another, shape (rows, cols)."""


def inside_shape(
    shape: str, size: SizePart, width_mm: float, height_mm: float, corner_mm: float
) -> Rows:
    """Return what tells how far inside a shape dots lie, in mm; below 0 outside.

    It tells it of some rows at a time, of every dot's middle.

    Parameters
    ----------
    shape : str
        rectangle, rounded, oval or circle, in the middle of the picture.
    size : SizePart
        The burn grid.
    width_mm, height_mm : float
        Of the shape.
    corner_mm : float
        Radius of a rounded rectangle's corners.

    Returns
    -------
    callable
        Exact for rectangles and circles; within a tenth of a dot for ovals.
    """
    x, y = grid_mm(size)
    half_w, half_h = max(width_mm / 2, 1e-6), max(height_mm / 2, 1e-6)
    if shape == "oval":
        return _inside_oval(x, y, half_w, half_h, size)
    corner = min(corner_mm, half_w, half_h) if shape == "rounded" else 0.0
    over = np.abs(x)[None, :] - (half_w - corner)

    def in_circle(first: int, last: int) -> NDArray[np.float32]:
        away = np.hypot(x[None, :], y[first:last, None])
        return np.asarray(half_w - away, np.float32)

    def in_rectangle(first: int, last: int) -> NDArray[np.float32]:
        down = np.abs(y)[first:last, None] - (half_h - corner)
        outside = np.hypot(np.maximum(over, 0), np.maximum(down, 0))
        inside = np.minimum(np.maximum(over, down), 0)
        return np.asarray(corner - outside - inside, np.float32)

    return in_circle if shape == "circle" else in_rectangle


def grid_mm(size: SizePart) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return x of each column and y of each row in mm from the picture's middle."""
    x = (np.arange(size.cols, dtype=np.float64) + 0.5 - size.cols / 2) * size.along_mm
    y = (np.arange(size.rows, dtype=np.float64) + 0.5 - size.rows / 2) * size.pitch_mm
    return x, y


def _inside_oval(
    x: NDArray[np.float64],
    y: NDArray[np.float64],
    half_w: float,
    half_h: float,
    size: SizePart,
) -> Rows:
    """Return the distance to an ellipse by a distance transform of the dots inside.

    Near the edge, where half a dot shows, the first-order distance
    f / |grad f| takes over (Taubin 1991, IEEE PAMI 13:1115–1138).
    """

    def form(first: int, last: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        u, v = x[None, :] / half_w, y[first:last, None] / half_h
        slope = 2 * np.sqrt((u / half_w) ** 2 + (v / half_h) ** 2)
        return u**2 + v**2, slope

    inside = np.zeros((len(y), len(x)), np.bool_)

    def fill(first: int, last: int) -> None:
        inside[first:last] = form(first, last)[0] <= 1

    in_bands(len(y), fill)
    away = depth_mm(inside, size)

    def rows(first: int, last: int) -> NDArray[np.float32]:
        f, slope = form(first, last)
        near = (1 - f) / np.maximum(slope, 1e-9)
        edge = np.abs(near) < 2 * max(size.cell_mm)
        return np.where(edge | (f > 1), near, away[first:last]).astype(np.float32)

    return rows


def depth_mm(inside: NDArray[np.bool_], size: SizePart) -> NDArray[np.float32]:
    """Return how far each dot inside a shape lies from the nearest outside it, in mm.

    Distances are measured on square cells, as long as a dot is at its longest.

    Parameters
    ----------
    inside : ndarray of bool, shape (rows, cols)
        Beyond it is outside.
    size : SizePart
        Tells how large a dot is.
    """
    rows, cols = inside.shape
    along, pitch = size.cell_mm
    cell = max(along, pitch)
    square = round(cols * along / cell), round(rows * pitch / cell)
    plane: NDArray[np.uint8] = inside.view(np.uint8)
    if square != (cols, rows):
        few = max(square[0], 1), max(square[1], 1)
        plane = np.asarray(cv2.resize(plane, few), np.uint8)
    deep = cv2.distanceTransform(np.pad(plane, 1), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    away = np.asarray(deep[1:-1, 1:-1], np.float32)
    away -= np.float32(0.5)
    away *= np.float32(cell)
    if square == (cols, rows):
        return away
    even = cv2.resize(away, (cols, rows), interpolation=cv2.INTER_LINEAR)
    return np.asarray(even, np.float32)
