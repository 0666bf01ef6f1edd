"""A round, soft brush drawn along a line of points."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.jobspec import Point, Stroke


def stroke_plane(stroke: Stroke, width: int, height: int) -> NDArray[np.float32]:
    """Return how much a stroke covers each pixel, 0..1.

    Parameters
    ----------
    stroke : Stroke
        Points in shares of the picture, size as a share of its longer side.
    width, height : int
        Of the picture in pixels.

    Returns
    -------
    ndarray of float32, shape (height, width)
        1 up to the hard part of the radius, then a smooth fall to 0 at the
        radius (``3t² - 2t³``).
    """
    out = np.zeros((height, width), np.float32)
    radius = max(stroke.size * max(width, height) / 2, 0.5)
    hard = radius * (1 - stroke.softness / 100)
    # Half a pixel of fading at least, or a hard brush has stairs.
    _draw(pixels(stroke.points, width, height), radius, min(hard, radius - 0.5), out)
    return out


def pixels(points: tuple[Point, ...], width: int, height: int) -> NDArray[np.float64]:
    """Return points as pixels, shape (n, 2)."""
    return np.array(points, np.float64) * (width, height)


@njit(cache=True, nogil=True)
def _draw(points, radius, hard, out):  # type: ignore[no-untyped-def]
    height, width = out.shape
    count = points.shape[0]
    for i in range(max(count - 1, 1)):
        ax, ay = points[i, 0], points[i, 1]
        bx, by = points[min(i + 1, count - 1), 0], points[min(i + 1, count - 1), 1]
        dx, dy = bx - ax, by - ay
        length = dx * dx + dy * dy
        left = max(int(np.floor(min(ax, bx) - radius)), 0)
        right = min(int(np.ceil(max(ax, bx) + radius)) + 1, width)
        top = max(int(np.floor(min(ay, by) - radius)), 0)
        bottom = min(int(np.ceil(max(ay, by) + radius)) + 1, height)
        for y in range(top, bottom):
            for x in range(left, right):
                px, py = x + 0.5 - ax, y + 0.5 - ay
                along = 0.0
                if length > 0:
                    along = min(max((px * dx + py * dy) / length, 0.0), 1.0)
                ox, oy = px - along * dx, py - along * dy
                away = np.sqrt(ox * ox + oy * oy)
                if away >= radius:
                    continue
                t = min((radius - away) / (radius - hard), 1.0)
                out[y, x] = max(out[y, x], t * t * (3 - 2 * t))
