"""Unsharp mask on the burn grid."""

import cv2
import numpy as np
from numpy.typing import NDArray


def unsharp_mask(
    codes: NDArray[np.uint8], sigma_dots: float, amount: float, least: float
) -> NDArray[np.uint8]:
    """Return ``v + amount·(v - G v)``, G a Gaussian blur.

    Parameters
    ----------
    codes : ndarray of uint8, shape (rows, cols)
    sigma_dots : float
        Standard deviation of the Gaussian in dots.
    amount : float
        0 changes nothing; 1 adds the whole difference.
    least : float
        Differences below this many codes are left alone.

    Returns
    -------
    ndarray of uint8, shape (rows, cols)
        Clipped to 0…255.

    Notes
    -----
    Gonzalez & Woods, Digital Image Processing, "unsharp masking". The blur is
    rounded to whole codes.
    """
    blurred = cv2.GaussianBlur(codes, (0, 0), sigma_dots, borderType=cv2.BORDER_REPLICATE)
    sharp = cv2.addWeighted(codes, 1 + amount, blurred, -amount, 0)
    if least > 0:
        quiet = cv2.absdiff(codes, blurred) < least
        sharp = np.where(quiet, codes, sharp)
    return np.asarray(sharp, np.uint8)
