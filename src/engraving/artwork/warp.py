"""Bring a picture onto the grid through a homography, in linear light.

What `grid` does for upright pictures, for tilted ones and those with four
corners: the part that is needed is averaged down to two or three pixels a dot,
then sampled no farther apart than its pixels (linear), and a dot is the mean of its
samples. Linear samples a pixel apart add up to the very area of the pixels under a
dot, so no screen in the picture beats with the dots. A picture with fewer pixels
than dots is sampled smoothly (cubic).
"""

import math
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.geometry.homography import Matrix, mapped, scale_at

_BAND_DOTS = 1 << 22
_PER_DOT = 2
_MOST_PER_DOT = 8
_HAIR = 1e-6
_WIDEST_PX = 32_000
"""OpenCV's sampler holds coordinates in sixteen bits."""
_APRON_PX = 4


def warp(
    plane: NDArray[Any],
    matrix: Matrix,
    size: tuple[int, int],
    linear: NDArray[np.float32],
    codes: NDArray[Any],
    *,
    way: int = cv2.INTER_CUBIC,
) -> NDArray[Any]:
    """Return a plane of `size` (cols, rows) looked up through a map.

    Parameters
    ----------
    plane : ndarray of uint8 or uint16, shape (height, width)
    matrix : ndarray, shape (3, 3)
        From dots to pixels; see `engraving.artwork.placing`.
    size : tuple of int
        Columns and rows wanted.
    linear, codes : ndarray
        Tables from codes to values 0..1 and back.
    way : int
        OpenCV's interpolation.
    """
    cols, rows = size
    out = np.zeros((rows, cols), codes.dtype)
    if max(plane.shape) > 1:
        light, matrix = _prepared(plane, matrix, size, linear)
        most = _scales(matrix, size)[1]
        per = min(max(_PER_DOT, math.ceil(most - _HAIR)), _MOST_PER_DOT)
        if most > 1:
            way = cv2.INTER_LINEAR
        deep = max(1, _BAND_DOTS // cols)
        for top in range(0, rows, deep):
            span = (top, min(deep, rows - top))
            band = _sampled(light, matrix, cols, span, (way, per))
            index = band.clip(0, 1) * (codes.size - 1) + 0.5
            out[top : top + band.shape[0]] = codes[index.astype(np.int64)]
    else:
        out[:] = codes[int(linear[int(plane[0, 0])] * (codes.size - 1))]
    return out


def _prepared(
    plane: NDArray[Any], matrix: Matrix, size: tuple[int, int], linear: NDArray[np.float32]
) -> tuple[NDArray[np.float32], Matrix]:
    """Return the needed part, averaged down, and the map onto it."""
    cols, rows = size
    height, width = plane.shape
    frame = mapped(matrix, np.array([(0, 0), (cols, 0), (cols, rows), (0, rows)]))
    least = np.floor(frame.min(axis=0)).astype(int) - _APRON_PX
    most = np.ceil(frame.max(axis=0)).astype(int) + _APRON_PX
    left, top = max(int(least[0]), 0), max(int(least[1]), 0)
    right, bottom = min(int(most[0]), width), min(int(most[1]), height)
    right, bottom = max(right, left + 1), max(bottom, top + 1)
    part = plane[top:bottom, left:right]
    times = max(
        math.floor(_scales(matrix, size)[0] / _PER_DOT),
        math.ceil(max(part.shape) / _WIDEST_PX),
        1,
    )
    light = _averaged(part, times, linear)
    move = np.array(
        [[1 / times, 0, -left / times], [0, 1 / times, -top / times], [0, 0, 1]]
    )
    return light, move @ matrix


def _scales(matrix: Matrix, size: tuple[int, int]) -> tuple[float, float]:
    """Return the least and the most pixels a dot, in the corners and the middle."""
    cols, rows = size
    places = [(x * cols, y * rows) for x, y in ((0, 0), (1, 0), (0, 1), (1, 1), (0.5, 0.5))]
    found = [scale_at(matrix, x, y) for x, y in places]
    return min(found), max(found)


def _averaged(
    part: NDArray[Any], times: int, linear: NDArray[np.float32]
) -> NDArray[np.float32]:
    """Return linear light, each pixel the mean of `times` × `times`."""
    height, width = part.shape
    down, across = math.ceil(height / times), math.ceil(width / times)
    if times == 1:
        return np.asarray(linear[part], np.float32)
    out = np.zeros((down, across), np.float32)
    for row in range(down):
        band = linear[part[row * times : (row + 1) * times]]
        line = np.pad(band.mean(axis=0), (0, across * times - width), "edge")
        out[row] = line.reshape(across, times).mean(axis=1)
    return out


def _sampled(
    light: NDArray[np.float32],
    matrix: Matrix,
    cols: int,
    span: tuple[int, int],
    how: tuple[int, int],
) -> NDArray[np.float32]:
    """Return a span of rows (first, how many) of dots, each the mean of its samples.

    `how` is OpenCV's interpolation, and how many samples lie along a dot.
    """
    way, per = how
    top, rows = span
    # Sample k lies at (k + ½)/per dots; pixel k at k + ½ pixels.
    to_dots = np.array(
        [[1 / per, 0, 0.5 / per], [0, 1 / per, top + 0.5 / per], [0, 0, 1]], np.float64
    )
    to_index = np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1]], np.float64)
    found = cv2.warpPerspective(
        light,
        to_index @ matrix @ to_dots,
        (cols * per, rows * per),
        flags=way | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return np.asarray(cv2.resize(found, (cols, rows), interpolation=cv2.INTER_AREA))
