"""Bring a picture with transparent parts onto the burn grid, each pixel by its opacity."""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.artwork.grid import Plane, cut_out, resample_rows, weights
from engraving.artwork.placing import grid_to_file
from engraving.artwork.warp import warp
from engraving.colour.light import SHARE_OF_BYTE, light_tables
from engraving.jobspec import ArtworkPart
from engraving.strips import in_bands

_SEEN = 0.1
"""Less weight than that is taken for nothing."""
_NEAR_DOTS = 15

# At half scale, for sharp edges overshoot and must do so alike in tones and weight.
_HALF = SHARE_OF_BYTE * np.float32(32767)
_STRAIGHT = (np.arange(65536) / 65535).astype(np.float32)
_BACK = np.arange(65536).astype(np.uint16)


def place_seen(
    plane: Plane, alpha: NDArray[np.uint8], part: ArtworkPart, cols: int, rows: int
) -> Plane:
    """Return a transparent picture's tones on the grid; see `grid.place_on_grid`.

    Each pixel counts by its opacity, so that what lies unseen under
    transparent parts does not bleed into the edge (Porter & Duff 1984,
    Computer Graphics 18:253–259, on premultiplied colour).
    """
    linear, codes = light_tables(plane)
    least = _SEEN * max(float(_HALF[alpha.max(initial=0)]), 1.0)
    if not part.is_upright:
        matrix = grid_to_file(part, cols, rows)
        seen, weight = (
            warp(values, matrix, (cols, rows), _STRAIGHT, _BACK)
            for values in _weighed(plane, alpha, linear)
        )
        return _tones(seen, weight, least, codes)
    window, opacity = cut_out(plane, part), cut_out(alpha, part)
    out = np.zeros((rows, cols), codes.dtype)

    def make(top: int, below: int) -> None:
        # The rows beside are needed by what is carried outward.
        first, last = max(top - _NEAR_DOTS, 0), min(below + _NEAR_DOTS, rows)
        seen, weight = _rows(window, opacity, linear, out.shape, first, last)
        tones = _tones(seen, weight, least, codes)
        out[top:below] = tones[top - first : below - first]

    in_bands(rows, make)
    return out


def _rows(
    window: Plane,
    opacity: NDArray[np.uint8],
    linear: NDArray[np.float32],
    shape: tuple[int, ...],
    first: int,
    last: int,
) -> tuple[NDArray[np.uint16], ...]:
    """Return rows `first` to `last` of the grid: light by opacity, and opacity."""
    rows, cols = shape
    if window.shape == (rows, cols):
        return _weighed(window[first:last], opacity[first:last], linear)
    starts, shares = weights(window.shape[0], rows)
    across = weights(window.shape[1], cols)
    begin = max(int(starts[first]), 0)
    end = int(starts[last - 1]) + shares.shape[1]
    down = starts[first:last] - begin, np.ascontiguousarray(shares[first:last])
    found = []
    for values in _weighed(window[begin:end], opacity[begin:end], linear):
        out = np.zeros((last - first, cols), np.uint16)
        resample_rows(values, down, across, out, _STRAIGHT, _BACK, 0, last - first)
        found.append(out)
    return tuple(found)


def _weighed(
    plane: Plane, alpha: NDArray[np.uint8], linear: NDArray[np.float32]
) -> tuple[NDArray[np.uint16], ...]:
    """Return light by opacity, and opacity, as numbers of sixteen bits."""
    half = _HALF[alpha]
    return tuple(
        np.ascontiguousarray(np.rint(values).astype(np.uint16))
        for values in (linear[plane] * half, half)
    )


def _tones(
    seen: NDArray[np.uint16], weight: NDArray[np.uint16], least: float, codes: Plane
) -> Plane:
    tones = np.clip(seen / np.maximum(weight, np.float32(1)), 0, 1)
    tones = _carried_outward(tones, weight > least)
    return np.asarray(codes[(tones * (codes.size - 1) + 0.5).astype(np.int64)])


def _carried_outward(tones: NDArray[Any], seen: NDArray[np.bool_]) -> NDArray[Any]:
    """Return tones with those of next to nothing taken from seen ones near by.

    Where a smooth kernel swings below 0 beside an edge its quotient means nothing,
    though a little of the edge is still seen there.
    """
    if seen.all() or not seen.any():
        return tones
    known = seen.astype(np.float32)
    box = (_NEAR_DOTS, _NEAR_DOTS)
    weight = cv2.boxFilter(known, -1, box, normalize=False)
    near = cv2.boxFilter(tones * known, -1, box, normalize=False)
    fill = ~seen & (weight > 0)
    tones[fill] = near[fill] / weight[fill]
    return tones
