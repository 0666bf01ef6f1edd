"""Smaller pictures, no longer than wanted."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray


def shrunk_size(width: float, height: float, longest: float) -> tuple[int, int]:
    """Return width and height in whole pixels, the longer at most `longest`.

    Nothing is enlarged, and nothing vanishes.

    Examples
    --------
    >>> shrunk_size(4000, 30, 100)
    (100, 1)
    """
    scale = min(longest / max(width, height), 1.0)
    return max(round(width * scale), 1), max(round(height * scale), 1)


def shrunk(picture: NDArray[Any], longest: int) -> NDArray[Any]:
    """Return a picture (rows, cols, …) no longer than `longest`, averaged."""
    size = shrunk_size(picture.shape[1], picture.shape[0], longest)
    if size == picture.shape[1::-1]:
        return np.ascontiguousarray(picture)
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA))
