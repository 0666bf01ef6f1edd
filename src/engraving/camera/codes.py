"""Square code marks in a photo, burned or printed, dark or light.

Square codes after Garrido-Jurado and others 2014 (Pattern Recognition
47:2280-2292), as OpenCV finds them.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

DICTIONARY = cv2.aruco.DICT_4X4_50
MODULES = 6
"""Modules along a mark's side, its dark rim included."""

Quad = NDArray[np.float64]
"""Four corners in pixels, shape (4, 2), from the back left one on, clockwise."""


def mark_modules(number: int) -> NDArray[np.uint8]:
    """Return a mark's modules, shape (6, 6), 0 where it is dark."""
    book = cv2.aruco.getPredefinedDictionary(DICTIONARY)
    return np.asarray(cv2.aruco.generateImageMarker(book, number, MODULES), np.uint8)


def find_marks(codes: NDArray[np.uint8], most: int, look_px: int = 1200) -> dict[int, Quad]:
    """Return the corners in pixels of the marks that are found, burned dark or light.

    Light marks are looked for in the negative: told to find both at once,
    OpenCV takes a dark mark's inner edge for its rim.

    Parameters
    ----------
    codes : ndarray of uint8, shape (rows, cols, 3)
        The photo, sRGB.
    most : int
        Marks are numbered from 0; those from here on are not ours.
    look_px : int
        Marks are looked for in a picture no larger; their corners are then
        found in the photo itself.
    """
    detector = cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(DICTIONARY))
    gray = np.asarray(cv2.cvtColor(codes, cv2.COLOR_RGB2GRAY), np.uint8)
    less = min(look_px / max(gray.shape), 1.0)
    small = cv2.resize(gray, None, fx=less, fy=less, interpolation=cv2.INTER_AREA)
    stretched = cv2.createCLAHE(4.0, (8, 8)).apply(small)
    best: dict[int, Quad] = {}
    for picture in (small, 255 - small, stretched, 255 - stretched):
        corners, numbers, _ = detector.detectMarkers(picture)
        found = [int(n) for n in np.ravel(numbers)] if len(corners) else []
        quads: dict[int, Quad] = {
            number: _sharpened(gray, np.asarray(quad, np.float32).reshape(4, 2), less)
            for number, quad in zip(found, corners, strict=True)
            if number < most
        }
        best = quads if len(quads) > len(best) else best
        if len(best) == most:
            break
    return best


def _sharpened(gray: NDArray[np.uint8], quad: NDArray[np.float32], less: float) -> Quad:
    """Return a mark's corners found in a smaller picture, to a part of a pixel."""
    at = (quad + 0.5) / less - 0.5
    reach = max(2, round(float(np.hypot(*(at[1] - at[0]))) / 24))
    rule = cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_MAX_ITER, 50, 0.01
    corners = cv2.cornerSubPix(gray, at.reshape(4, 1, 2), (reach, reach), (-1, -1), rule)
    return np.asarray(corners, np.float64).reshape(4, 2)
