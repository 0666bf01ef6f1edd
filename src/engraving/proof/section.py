"""A cut through a surface along a line."""

import cv2
import numpy as np
from numpy.typing import NDArray

Depths = NDArray[np.float32]
Point = tuple[float, float]


def crossed(
    depths: Depths, px_mm: tuple[float, float], corner: Point, line: tuple[Point, Point],
    count: int,
) -> Depths:  # fmt: skip
    """Return depths along a straight line, straight between the middles of pixels.

    Parameters
    ----------
    depths : ndarray of float32, shape (rows, cols)
        mm below the surface.
    px_mm : tuple of float
        Width and height of a pixel.
    corner : tuple of float
        Where the plane's upper left corner lies, mm, y down, as the line's ends.
    line : tuple of points
    count : int
        So many depths, the ends among them.
    """
    (x0, y0), (x1, y1) = line
    share = np.linspace(0, 1, count)
    x = (x0 + (x1 - x0) * share - corner[0]) / px_mm[0] - 0.5
    y = (y0 + (y1 - y0) * share - corner[1]) / px_mm[1] - 0.5
    maps = x[None].astype(np.float32), y[None].astype(np.float32)
    found = cv2.remap(depths, *maps, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(found[0], np.float32)
