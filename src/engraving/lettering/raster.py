"""Outlines to dots, and how thin their thinnest strokes are."""

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import SizePart, TextLine
from engraving.lettering.faces import Face
from engraving.lettering.layout import Glyph, flat_outlines

_BITS = 6
_CAP_PX = 160
_KEPT = 0.97


def fill_outlines(glyphs: list[Glyph], size: SizePart) -> NDArray[np.bool_]:
    """Return the dots whose middles lie inside a line's letters.

    Parameters
    ----------
    glyphs : list of list of ndarray
        Contours in mm from the picture's middle, y away from the operator.
    size : SizePart
        The burn grid.

    Returns
    -------
    ndarray of bool, shape (rows, cols)
    """
    out = np.zeros((size.rows, size.cols), np.bool_)
    middle = np.array([size.cols / 2, size.rows / 2])
    for glyph in glyphs:
        dots = [contour * (1, -1) / size.cell_mm + middle for contour in glyph]
        _fill(dots, out)
    return out


def _fill(contours: list[NDArray[np.float64]], out: NDArray[np.bool_]) -> None:
    """Set all that contours in pixels wind round (the non-zero rule)."""
    if not contours:
        return
    rows, cols = out.shape
    every = np.vstack(contours)
    left, top = np.floor(every.min(axis=0)).astype(int) - 1
    right, bottom = np.ceil(every.max(axis=0)).astype(int) + 2
    left, top = max(left, 0), max(top, 0)
    right, bottom = min(right, cols), min(bottom, rows)
    if right <= left or bottom <= top:
        return
    winding = np.zeros((bottom - top, right - left), np.int16)
    for contour in contours:
        winding += _inside(contour - (left, top), winding.shape) * _way(contour)
    out[top:bottom, left:right] |= winding != 0


def _inside(contour: NDArray[np.float64], shape: tuple[int, ...]) -> NDArray[np.int16]:
    """Return 1 where a pixel's middle lies inside one contour.

    The library also paints pixels its edge only touches, so it paints four
    times as fine and every fourth is kept: an error of an eighth of a dot.
    """
    fine = 4
    large = np.zeros((shape[0] * fine, shape[1] * fine), np.uint8)
    fixed = np.rint((contour * fine - 0.5) * (1 << _BITS)).astype(np.int32)
    cv2.fillPoly(large, [fixed], 1, cv2.LINE_8, _BITS)
    share = cv2.resize(large * 255, shape[::-1], interpolation=cv2.INTER_AREA)
    return (share >= 128).astype(np.int16)


def _way(contour: NDArray[np.float64]) -> int:
    """Return 1 or -1 by the direction a contour runs."""
    x, y = contour[:, 0], contour[:, 1]
    area = np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))
    return 1 if area > 0 else -1


def thinnest_stroke_mm(face: Face, line: TextLine) -> float:
    """Return the diameter of the widest round pen that still draws the line.

    Still: 97 % of its ink, so that sharp corners and serif tips do not count
    (mathematical morphology, an opening by discs; Serra 1982).
    """
    flat = flat_outlines(face, line)
    if not any(flat):
        return line.cap_mm
    scale = _CAP_PX / line.cap_mm
    ink = _painted(flat, scale)
    low, high = 1.0, 0.5 * _CAP_PX
    while high - low > 0.5:
        pen = (low + high) / 2
        low, high = (pen, high) if _opened(ink, pen) >= _KEPT else (low, pen)
    return 2 * low / scale


def _painted(flat: list[Glyph], scale: float) -> NDArray[np.bool_]:
    every = np.vstack([contour for glyph in flat for contour in glyph]) * scale
    least = every.min(axis=0) - 2
    width, height = (np.ceil(every.max(axis=0) - least).astype(int) + 2).tolist()
    out = np.zeros((height, width), np.bool_)
    for glyph in flat:
        _fill([contour * scale - least for contour in glyph], out)
    return out


def _opened(ink: NDArray[np.bool_], radius: float) -> float:
    """Return the share of the ink that a disc of `radius` pixels can reach."""
    deep = _distance(ink)
    core = deep >= radius
    if not core.any():
        return 0.0
    near = _distance(~core) <= radius
    return float((near & ink).sum() / ink.sum())


def _distance(inside: NDArray[np.bool_]) -> NDArray[np.float32]:
    plane = np.pad(inside.view(np.uint8), 1)
    found = cv2.distanceTransform(plane, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return np.asarray(found[1:-1, 1:-1])
