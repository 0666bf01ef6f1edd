"""Cut the artwork out and bring it onto the burn grid, in linear light.

The picture is resampled once, straight onto the grid. Where it already has
one pixel per dot nothing is touched.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.artwork.light import CODE_OF_LINEAR, LINEAR_OF_CODE
from engraving.spec import ArtworkPart

_LOBES = 3.0


def cut_out(gray: NDArray[np.uint8], part: ArtworkPart) -> NDArray[np.uint8]:
    """Return the turned, mirrored and cropped window of a plane.

    Parameters
    ----------
    gray : ndarray of uint8, shape (height, width) or (height, width, 3)
    part : ArtworkPart
        Quarter turns (clockwise), then mirror, then crop.

    Returns
    -------
    ndarray of uint8
        A view where possible.
    """
    turned = np.rot90(gray, -part.turns)
    if part.mirror:
        turned = turned[:, ::-1]
    height, width = turned.shape[:2]
    shown = part.model_copy(
        update={
            "turns": 0,
            "width_px": width,
            "height_px": height,
        }
    )
    left, top, across, down = shown.window_px
    return turned[top : top + down, left : left + across]


def place_on_grid(
    gray: NDArray[np.uint8], part: ArtworkPart, cols: int, rows: int
) -> NDArray[np.uint8]:
    """Return the artwork with one pixel per dot.

    Parameters
    ----------
    gray : ndarray of uint8, shape (height, width)
        The whole picture, sRGB-coded.
    part : ArtworkPart
        How it is turned and cut.
    cols, rows : int
        Size of the burn grid in dots.

    Returns
    -------
    ndarray of uint8, shape (rows, cols)
        sRGB codes; untouched where the window already has that size.
    """
    window = cut_out(gray, part)
    if window.shape == (rows, cols):
        return np.ascontiguousarray(window)
    return resample(np.ascontiguousarray(window), cols, rows)


def resample(gray: NDArray[np.uint8], cols: int, rows: int) -> NDArray[np.uint8]:
    """Resample sRGB codes to `cols` × `rows` in linear light.

    Separable Lanczos with three lobes, widened when shrinking so that it
    averages (Duchon 1979, J. Appl. Meteorology 18:1016–1022).
    """
    down, across = _weights(gray.shape[0], rows), _weights(gray.shape[1], cols)
    out = np.zeros((rows, cols), np.uint8)
    _resample(gray, *down, *across, out, LINEAR_OF_CODE, CODE_OF_LINEAR)
    return out


def _weights(count: int, wanted: int) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
    """Return first source index and normalised weights of each output sample."""
    ratio = count / wanted
    stretch = max(ratio, 1.0)
    support = _LOBES * stretch
    centre = (np.arange(wanted) + 0.5) * ratio
    first = np.floor(centre - support + 0.5).astype(np.int64)
    taps = np.arange(int(np.ceil(2 * support)) + 1)
    index = first[:, None] + taps
    t = (index + 0.5 - centre[:, None]) / stretch
    weight = np.where(np.abs(t) < _LOBES, np.sinc(t) * np.sinc(t / _LOBES), 0.0)
    weight[(index < 0) | (index >= count)] = 0.0
    weight /= weight.sum(axis=1, keepdims=True)
    return first, weight.astype(np.float32)


@njit(cache=True, nogil=True)
def _resample(gray, first_y, weight_y, first_x, weight_x, out, linear, codes):  # type: ignore[no-untyped-def]
    rows, cols = out.shape
    height, width = gray.shape
    line = np.zeros(width, np.float32)
    top = np.float32(codes.size - 1)
    for y in range(rows):
        line[:] = 0
        for k in range(weight_y.shape[1]):
            source, weight = first_y[y] + k, weight_y[y, k]
            if 0 <= source < height and weight != 0:
                row = gray[source]
                for x in range(width):
                    line[x] += weight * linear[row[x]]
        for x in range(cols):
            start = first_x[x]
            total = np.float32(0)
            low, high = max(0, -start), min(weight_x.shape[1], width - start)
            for k in range(low, high):
                total += weight_x[x, k] * line[start + k]
            total = min(max(total, np.float32(0)), np.float32(1))
            out[y, x] = codes[int(total * top + np.float32(0.5))]
