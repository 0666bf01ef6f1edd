"""Frames on the burn grid: how far inside a shape each dot lies."""

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.spec import SizePart


def inside_shape(
    shape: str, size: SizePart, width_mm: float, height_mm: float, corner_mm: float
) -> NDArray[np.float32]:
    """Return how far inside a shape every dot's middle lies, in mm; below 0 outside.

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
    ndarray of float32, shape (rows, cols)
        Exact for rectangles and circles; within a tenth of a dot for ovals.
    """
    x, y = grid_mm(size)
    half_w, half_h = max(width_mm / 2, 1e-6), max(height_mm / 2, 1e-6)
    if shape == "circle":
        return (half_w - np.hypot(x[None, :], y[:, None])).astype(np.float32)
    if shape == "oval":
        return _inside_oval(x, y, half_w, half_h, size.pitch_mm)
    corner = min(corner_mm, half_w, half_h) if shape == "rounded" else 0.0
    across = np.abs(x)[None, :] - (half_w - corner)
    down = np.abs(y)[:, None] - (half_h - corner)
    outside = np.hypot(np.maximum(across, 0), np.maximum(down, 0))
    inside = np.minimum(np.maximum(across, down), 0)
    return (corner - outside - inside).astype(np.float32)


def grid_mm(size: SizePart) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return x of each column and y of each row in mm from the picture's middle."""
    x = (np.arange(size.cols, dtype=np.float64) + 0.5 - size.cols / 2) * size.pitch_mm
    y = (np.arange(size.rows, dtype=np.float64) + 0.5 - size.rows / 2) * size.pitch_mm
    return x, y


def _inside_oval(
    x: NDArray[np.float64],
    y: NDArray[np.float64],
    half_w: float,
    half_h: float,
    pitch: float,
) -> NDArray[np.float32]:
    """Return the distance to an ellipse by a distance transform of the dots inside.

    Near the edge, where half a dot shows, the first-order distance
    f / |grad f| takes over (Taubin 1991, IEEE PAMI 13:1115–1138).
    """
    u, v = x[None, :] / half_w, y[:, None] / half_h
    f = u**2 + v**2
    slope = 2 * np.sqrt((u / half_w) ** 2 + (v / half_h) ** 2)
    near = (1 - f) / np.maximum(slope, 1e-9)
    inside = np.pad((f <= 1).view(np.uint8), 1)
    deep = cv2.distanceTransform(inside, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    away = (deep[1:-1, 1:-1] - 0.5) * pitch
    return np.where(np.abs(near) < 2 * pitch, near, np.where(f <= 1, away, near)).astype(
        np.float32
    )
