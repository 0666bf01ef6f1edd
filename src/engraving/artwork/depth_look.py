"""Whether a picture is a depth picture or a photograph: odds, and what they rest on."""

import math

import cv2
import numpy as np
from numpy.typing import NDArray

_BLUR_PX = 1.5
_MOVES = 0.05
_LONGEST = 1536


def depth_odds(gray: NDArray[np.uint8] | NDArray[np.uint16], gone: float = 0.0) -> float:
    """Return how likely a picture tells depths and not tones, 0..1.

    Depths run smoothly: between two pixels their slope hardly changes, where a
    photograph has texture and grain all over. A large share of the very same ground,
    many more levels than a screen shows, and samples without a number speak for depth
    too. Weights are our own, fitted by hand to what scikit-image ships and to made-up
    depths.

    Parameters
    ----------
    gray : ndarray of uint8 or uint16, shape (height, width)
    gone : float
        Share of samples that are no numbers, 0..1.
    """
    full = 255 / 65535 if gray.dtype == np.uint16 else 1.0
    part = _middle(gray)
    plane = part.astype(np.float32) * np.float32(full)
    ground = float((plane <= plane.min()).mean())
    if ground == 1:
        return 0.5
    ground = 0.0 if ground > 0.9 else ground
    soft = cv2.GaussianBlur(plane, (0, 0), _BLUR_PX)
    slope = np.hypot(
        cv2.Sobel(soft, cv2.CV_32F, 1, 0) / 8, cv2.Sobel(soft, cv2.CV_32F, 0, 1) / 8
    )
    moves = slope > _MOVES
    if not moves.any():
        return 0.5
    bends = np.abs(cv2.Laplacian(soft, cv2.CV_32F)) / 4
    ratio = float(bends[moves].mean() / slope[moves].mean())
    fine = gray.dtype == np.uint16 and np.unique(part[::3, ::3]).size > 2000
    score = 60 * (0.06 - ratio) + 1.0 * (ground > 0.05) + 1.5 * fine + 6.0 * (gone > 0)
    return 1 / (1 + math.exp(-max(min(score, 30.0), -30.0)))


def _middle(gray: NDArray[np.uint8] | NDArray[np.uint16]) -> NDArray[np.generic]:
    """Return the middle of a picture, at its own resolution."""
    top, left = (max((side - _LONGEST) // 2, 0) for side in gray.shape)
    return gray[top : top + _LONGEST, left : left + _LONGEST]
