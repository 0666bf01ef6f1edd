"""From near and far to depths in mm: curve, ground, floor, rim and walls."""

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import ReliefPart

Depths = NDArray[np.float32]


def depths_mm(near: Depths, relief: ReliefPart, cell_mm: tuple[float, float]) -> Depths:
    """Return how deep each dot is to lie.

    Parameters
    ----------
    near : ndarray of float32, shape (rows, cols)
        1 nearest, 0 farthest, NaN without depth.
    relief : ReliefPart
    cell_mm : tuple of float
        Length of a dot and distance of the rows.

    Returns
    -------
    ndarray of float32, shape (rows, cols)
        mm below the surface; 0 where nothing is to be carved.
    """
    bare = ~np.isfinite(near)
    share = near if relief.invert else np.float32(1) - near
    share = np.where(bare, np.float32(0), share)
    if relief.smooth_mm:
        share = _smoothed(share, bare, relief.smooth_mm, cell_mm)
    if relief.flat_ground:
        share = np.where(share >= 1 - relief.flat_ground / 100, np.float32(1), share)
    if relief.gamma != 1:
        share = share ** np.float32(relief.gamma)
    deep = share * np.float32(relief.depth_mm)
    if relief.floor_mm:
        deep = np.minimum(deep, np.float32(relief.floor_mm))
    deep[bare] = 0
    if relief.rim_mm:
        _keep_rim(deep, bare, relief.rim_mm, cell_mm)
    if relief.wall_deg:
        deep = _leaning(deep, relief.wall_deg, cell_mm)
    return np.ascontiguousarray(deep, np.float32)


def _smoothed(
    share: Depths, bare: NDArray[np.bool_], radius_mm: float, cell_mm: tuple[float, float]
) -> Depths:
    """Return a share blurred by a Gaussian, what has no depth not counted."""
    sigma_x, sigma_y = (max(radius_mm / one, 1e-3) for one in cell_mm)
    found = cv2.GaussianBlur(share, (0, 0), sigma_x, sigmaY=sigma_y)
    if bare.any():
        weight = cv2.GaussianBlur(
            (~bare).astype(np.float32), (0, 0), sigma_x, sigmaY=sigma_y
        )
        found = found / np.maximum(weight, np.float32(1e-6))
    return np.where(bare, np.float32(0), found)


def _keep_rim(
    deep: Depths, bare: NDArray[np.bool_], rim_mm: float, cell_mm: tuple[float, float]
) -> None:
    """Leave a rim along the picture's edge and round what has no depth."""
    across, down = (math.ceil(rim_mm / one - 1e-9) for one in cell_mm)
    if across:
        deep[:, :across] = deep[:, -across:] = 0
    if down:
        deep[:down] = deep[-down:] = 0
    if bare.any():
        reach = (2 * across + 1, 2 * down + 1)
        round_ = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, reach)
        deep[cv2.dilate(bare.astype(np.uint8), round_) > 0] = 0


def _leaning(deep: Depths, wall_deg: float, cell_mm: tuple[float, float]) -> Depths:
    """Return depths no deeper than a wall from the nearest bare dot, or the edge, allows.

    A wall that leans by w from upright is d·tan(w) wide at depth d (plain geometry).
    """
    along, pitch = cell_mm
    carved = np.pad((deep > 0).astype(np.uint8), 1)
    if abs(along - pitch) < 1e-9:
        far = cv2.distanceTransform(carved, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        away = np.asarray(far * pitch, np.float32)
    else:
        fine = min(along, pitch)
        size = (
            round(carved.shape[1] * along / fine),
            round(carved.shape[0] * pitch / fine),
        )
        big = cv2.resize(carved, size, interpolation=cv2.INTER_NEAREST)
        far = cv2.distanceTransform(big, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) * fine
        back = carved.shape[1], carved.shape[0]
        away = np.asarray(cv2.resize(far, back, interpolation=cv2.INTER_LINEAR), np.float32)
    # The wall begins at the dot's edge, half a dot before its middle.
    from_edge = np.maximum(away[1:-1, 1:-1] - min(cell_mm) / 2, 0)
    most = from_edge / np.float32(math.tan(math.radians(wall_deg)))
    return np.minimum(deep, most.astype(np.float32))
