"""A smaller likeness of a picture, to look at and to draw upon; it is never burned."""

import cv2
import numpy as np
import pyvips
from numpy.typing import NDArray

from engraving.geometry.shrinking import shrunk_size

LIKENESS_PX = 4096
"""Longest side of the likeness of a file."""


def likeness_of(
    gray: NDArray[np.uint8] | NDArray[np.uint16],
    colour: NDArray[np.uint8] | None,
    alpha: NDArray[np.uint8] | None,
    longest_px: int = LIKENESS_PX,
) -> NDArray[np.uint8]:
    """Return RGBA codes no longer than `longest_px`, shape (height, width, 4).

    Averaged where they shrink, in sRGB codes.

    Parameters
    ----------
    gray : ndarray of uint8 or uint16, shape (height, width)
        Shown where there are no colours.
    colour : ndarray of uint8, shape (height, width, 3), or None
    alpha : ndarray of uint8, shape (height, width), or None
    """
    size = shrunk_size(gray.shape[1], gray.shape[0], longest_px)
    if colour is None:
        codes = gray if gray.dtype == np.uint8 else gray // 257
        out = cv2.cvtColor(_averaged(codes.astype(np.uint8), size), cv2.COLOR_GRAY2RGBA)
    else:
        out = cv2.cvtColor(_averaged(colour, size), cv2.COLOR_RGB2RGBA)
    if alpha is not None:
        out[..., 3] = _averaged(alpha, size)
    return np.asarray(out)


def _averaged(codes: NDArray[np.uint8], size: tuple[int, int]) -> NDArray[np.uint8]:
    """Return codes, shape (height, width) or (height, width, 3), at a smaller size.

    By libvips: whole pixels averaged, then between neighbours, in half of OpenCV's time.
    """
    height, width = codes.shape[:2]
    if (width, height) == size:
        return codes
    bands = codes.size // (height * width)
    data = np.ascontiguousarray(codes).data
    picture = pyvips.Image.new_from_memory(data, width, height, bands, "uchar")
    found = picture.resize(size[0] / width, vscale=size[1] / height, kernel="linear")
    return np.asarray(found.numpy()).reshape(size[1], size[0], *codes.shape[2:])
