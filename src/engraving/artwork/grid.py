"""Cut the artwork out and bring it onto the burn grid, in linear light.

The picture is resampled once, straight onto the grid. Where it already has
one pixel per dot nothing is touched.
"""

from functools import lru_cache
from typing import Any

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.artwork.placing import grid_to_file
from engraving.artwork.warp import warp
from engraving.colour.light import BYTE_OF_SHARE, SHARE_OF_BYTE, light_tables
from engraving.jobspec import ArtworkPart
from engraving.strips import in_strips

Plane = NDArray[Any]
"""Codes of eight or sixteen bits."""

_LOBES = 3.0
_BESIDE = 8


def cut_out(plane: Plane, part: ArtworkPart) -> Plane:
    """Return the turned, mirrored and cropped window of an upright picture.

    Parameters
    ----------
    plane : ndarray, shape (height, width) or (height, width, channels)
        Of the file's size, or a smaller likeness of it.
    part : ArtworkPart
        Quarter turns (clockwise), then mirror, then crop.

    Returns
    -------
    ndarray
        A view where possible.
    """
    turned = np.rot90(plane, -part.turns)
    if part.mirror:
        turned = turned[:, ::-1]
    height, width = turned.shape[:2]
    shown = part.model_copy(
        update={"turns": 0, "corners": None, "width_px": width, "height_px": height}
    )
    left, top, across, down = shown.window_px
    return turned[top : top + down, left : left + across]


def place_on_grid(plane: Plane, part: ArtworkPart, cols: int, rows: int) -> Plane:
    """Return a gray plane with one pixel per dot.

    Parameters
    ----------
    plane : ndarray of uint8 or uint16, shape (height, width)
        The whole picture, sRGB-coded.
    part : ArtworkPart
        How it is squared, turned and cut.
    cols, rows : int
        Size of the burn grid in dots.

    Returns
    -------
    ndarray, shape (rows, cols), of the same type
        sRGB codes; untouched where the window already has that size.
    """
    return _place(plane, part, cols, rows, *light_tables(plane))


def place_share(
    share: NDArray[np.uint8], part: ArtworkPart, cols: int, rows: int
) -> NDArray[np.uint8]:
    """Return a mask (255 = kept) with one pixel per dot; see `place_on_grid`.

    Averaged or interpolated without overshoot: beyond its edge a mask is 0.
    """
    if not part.is_upright:
        matrix = grid_to_file(part, cols, rows)
        tables = SHARE_OF_BYTE, BYTE_OF_SHARE
        return warp(share, matrix, (cols, rows), *tables, way=cv2.INTER_LINEAR)
    window = cut_out(share, part)
    if window.shape == (rows, cols):
        return np.ascontiguousarray(window)
    shrinks = window.shape[1] > cols or window.shape[0] > rows
    way = cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR
    found = cv2.resize(np.ascontiguousarray(window), (cols, rows), interpolation=way)
    return np.asarray(found, np.uint8)


def repeat_dots(plane: Plane, part: ArtworkPart, cols: int, rows: int) -> Plane:
    """Return the window with each pixel repeated to fill a whole multiple of dots."""
    window = cut_out(plane, part)
    times = cols // window.shape[1]
    return np.ascontiguousarray(np.repeat(np.repeat(window, times, 0), times, 1))


def _place(
    plane: Plane,
    part: ArtworkPart,
    cols: int,
    rows: int,
    linear: NDArray[np.float32],
    codes: Plane,
) -> Plane:
    if not part.is_upright:
        return warp(plane, grid_to_file(part, cols, rows), (cols, rows), linear, codes)
    window = cut_out(plane, part)
    if window.shape == (rows, cols):
        return np.ascontiguousarray(window)
    return _shrink(np.ascontiguousarray(window), cols, rows, linear, codes)


def resample(plane: Plane, cols: int, rows: int) -> Plane:
    """Resample sRGB codes to `cols` × `rows` in linear light.

    Separable Lanczos with three lobes, widened when shrinking so that it
    averages (Duchon 1979, J. Appl. Meteorology 18:1016–1022).
    """
    return _shrink(plane, cols, rows, *light_tables(plane))


def _shrink(
    plane: Plane, cols: int, rows: int, linear: NDArray[np.float32], codes: Plane
) -> Plane:
    down, across = weights(plane.shape[0], rows), weights(plane.shape[1], cols)
    out = np.zeros((rows, cols), codes.dtype)
    in_strips(
        rows, lambda a, b: resample_rows(plane, down, across, out, linear, codes, a, b)
    )
    return out


@lru_cache(maxsize=8)
def weights(count: int, wanted: int) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
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
def resample_rows(gray, down, across, out, linear, codes, begin, end):  # type: ignore[no-untyped-def]
    """Make output rows `begin` to `end`, eight at a time: their sums go side by side.

    Each source row is brought to linear light once, and kept while rows need it.
    """
    first_y, weight_y = down
    first_x, weight_x = across
    height, width = gray.shape
    taps = weight_y.shape[1]
    kept, held = np.zeros((taps, width), np.float32), np.full(taps, -1)
    line, lines = np.zeros(width, np.float32), np.zeros((width, _BESIDE), np.float32)
    total, top = np.zeros(_BESIDE, np.float32), np.float32(codes.size - 1)
    for y in range(begin, end, _BESIDE):
        count = min(_BESIDE, end - y)
        for j in range(count):
            line[:] = 0
            for k in range(taps):
                source, weight = first_y[y + j] + k, weight_y[y + j, k]
                if 0 <= source < height and weight != 0:
                    row = kept[source % taps]
                    if held[source % taps] != source:
                        held[source % taps] = source
                        _to_linear(gray[source], linear, row)
                    for x in range(width):
                        line[x] += weight * row[x]
            for x in range(width):
                lines[x, j] = line[x]
        for x in range(out.shape[1]):
            start = first_x[x]
            total[:] = 0
            for k in range(max(0, -start), min(weight_x.shape[1], width - start)):
                weight = weight_x[x, k]
                for j in range(_BESIDE):
                    total[j] += weight * lines[start + k, j]
            for j in range(count):
                share = min(max(total[j], np.float32(0)), np.float32(1))
                out[y + j, x] = codes[int(share * top + np.float32(0.5))]


@njit(cache=True, nogil=True)
def _to_linear(codes, linear, row):  # type: ignore[no-untyped-def]
    for x in range(row.size):
        row[x] = linear[codes[x]]
