"""What a round tool covers along a way, drawn into pixels."""

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float64]

_SHIFT = 4
_PART = 1 << _SHIFT
"""OpenCV draws at sixteenths of a pixel."""
_GAP_PX = 0.5
"""Outside a bend the hulls of two stretches leave a wedge; so wide it cannot be seen."""


def swept(
    strokes: Sequence[Values],
    widths: Sequence[Values],
    scale: tuple[float, float],
    shape: tuple[int, int],
    corner: tuple[float, float] = (0.0, 0.0),
) -> NDArray[np.uint8]:
    """Return what discs along strokes cover, 255 and 0.

    Parameters
    ----------
    strokes : sequence of ndarray, shape (n, 2)
        Points in mm, y down.
    widths : sequence of ndarray, shape (n,)
        How wide each is at its points, mm.
    scale : tuple of float
        Pixels a mm, across and down.
    shape : tuple of int
        Rows and columns of the picture.
    corner : tuple of float
        Its top left corner, mm.
    """
    canvas = np.zeros(shape, np.uint8)
    times, reach = np.array(scale), float(np.mean(scale))
    size = np.array(shape[::-1])
    for points, wide in zip(strokes, widths, strict=True):
        where, half = (points - corner) * times, wide * reach / 2
        margin = float(half.max(initial=0))
        beyond = (where.max(axis=0) < -margin) | (where.min(axis=0) > size + margin)
        if not beyond.any():
            _draw(canvas, where, half)
    return canvas


def _draw(canvas: NDArray[np.uint8], points: Values, half: Values) -> None:
    """Draw one stroke as discs and the hulls between them."""
    way: dict[str, Any] = {"shift": _SHIFT, "lineType": cv2.LINE_8}
    where = np.rint((points - 0.5) * _PART).astype(np.int32)
    steps = np.diff(points, axis=0)
    long = np.maximum(np.hypot(*steps.T), 1e-9)[:, None] if len(steps) else np.ones((0, 1))
    ways = steps / long
    cosine = (ways[1:] * ways[:-1]).sum(axis=1)
    gaps = half[1:-1] * np.sqrt(np.clip(2 - 2 * cosine, 0, None))
    bends = gaps > _GAP_PX
    for k in {0, len(points) - 1, *(np.flatnonzero(bends) + 1).tolist()}:
        if half[k] > 0:
            radius = round(float(half[k]) * _PART)
            cv2.circle(canvas, where[k].tolist(), radius, 255, -1, **way)
    if len(points) < 2:
        return
    side = np.column_stack([-ways[:, 1], ways[:, 0]])
    first, last = half[:-1, None] * side, half[1:, None] * side
    quads = np.stack(
        [points[:-1] + first, points[1:] + last, points[1:] - last, points[:-1] - first],
        axis=1,
    )
    for quad in np.rint((quads - 0.5) * _PART).astype(np.int32):
        cv2.fillConvexPoly(canvas, quad, 255, **way)
