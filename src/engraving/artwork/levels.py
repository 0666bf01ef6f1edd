"""Whether a picture consists of dots already, and whether they were smeared."""

import cv2
import numpy as np
from numpy.typing import NDArray

_LOOKED_AT = 1 << 22
"""Pixels that are enough to tell; of larger pictures every n-th row is looked at."""


def is_two_level(gray: NDArray[np.uint8] | NDArray[np.uint16]) -> bool:
    """Return whether nearly all pixels are one of two codes far apart.

    Nearly: 99.5 % within 2 codes of the two commonest extremes. A blank
    picture is not made of dots.
    """
    if gray.dtype != np.uint8:
        return False
    counts = _counts(_sample(gray))
    used = np.flatnonzero(counts)
    low, high = int(used[0]), int(used[-1])
    if high - low < 64:
        return False
    near = counts[low : low + 3].sum() + counts[high - 2 : high + 1].sum()
    return bool(near >= 0.995 * counts.sum())


def splitting_level(gray: NDArray[np.uint8] | NDArray[np.uint16]) -> float:
    """Return the code that best splits a picture in two: at it and below is dark.

    Otsu 1979, IEEE Trans. Systems, Man, Cybernetics 9:62–66; by OpenCV.
    Codes of sixteen bits are split by their upper eight.
    """
    wide = gray.dtype == np.uint16
    codes = (gray >> 8).astype(np.uint8) if wide else np.asarray(gray, np.uint8)
    flags = cv2.THRESH_BINARY + cv2.THRESH_OTSU
    level, _ = cv2.threshold(np.ascontiguousarray(codes), 0, 255, flags)
    return float(level) * 256 + 255 if wide else float(level)


def smeared_dots(gray: NDArray[np.uint8] | NDArray[np.uint16]) -> bool:
    """Return whether a lossy picture looks like dots that were blurred a little.

    Most pixels lie near black or white, few at either end exactly, and black
    and white change places at more than every twelfth step: much oftener
    than in line art, whose edges are few (common practice, no source; held
    against made-up halftones and photographs in the tests).
    """
    if gray.dtype != np.uint8:
        return False
    part = _sample(gray)
    counts = _counts(part)
    total = counts.sum()
    near = counts[:64].sum() + counts[192:].sum()
    if near < 0.8 * total or min(counts[:64].sum(), counts[192:].sum()) < 0.05 * total:
        return False
    black = (part < 128).view(np.uint8)
    changes = cv2.countNonZero(cv2.absdiff(black[:, 1:], black[:, :-1]))
    return bool(changes > max(black[:, 1:].size, 1) / 12)


def _counts(codes: NDArray[np.uint8]) -> NDArray[np.int64]:
    """Return how often each code occurs; a twentieth of the time that NumPy takes."""
    return cv2.calcHist([codes], [0], None, [256], [0, 256]).ravel().astype(np.int64)


def _sample(gray: NDArray[np.uint8] | NDArray[np.uint16]) -> NDArray[np.uint8]:
    step = max(1, gray.size // _LOOKED_AT)
    return np.ascontiguousarray(gray[::step], np.uint8)
