"""Whether a subject stands out from the ground it is put on."""

import cv2
import numpy as np
from numpy.typing import NDArray

_BAND_DOTS = 3
_ALIKE = 24
_SEE_THROUGH = 128


def melting_share(
    toned: NDArray[np.uint8], opacity: NDArray[np.uint8], ground: float | None
) -> float:
    """Return the share of a subject's edge whose tone is that of its ground, 0..1.

    Parameters
    ----------
    toned : ndarray of uint8, shape (rows, cols)
        The toned picture.
    opacity : ndarray of uint8, shape (rows, cols)
        255 where the subject is.
    ground : float or None
        The ground's code, where it is not part of the toned picture; else it
        is read off just outside the edge.

    Returns
    -------
    float
        Of the three rows of dots inside the edge, those within 24 codes of
        the ground (common practice, no source).
    """
    subject = (opacity >= _SEE_THROUGH).view(np.uint8)
    kernel = np.ones((2 * _BAND_DOTS + 1, 2 * _BAND_DOTS + 1), np.uint8)
    # Beyond the picture's own edge there is no ground to melt into.
    inside = cv2.erode(subject, kernel, borderType=cv2.BORDER_CONSTANT, borderValue=1)
    band = (subject - inside).astype(np.bool_)
    if not band.any():
        return 0.0
    if ground is None:
        outside = cv2.dilate(subject, kernel).astype(np.bool_) & ~subject.astype(np.bool_)
        ground = float(np.median(toned[outside])) if outside.any() else 255.0
    return float((np.abs(toned[band].astype(np.float32) - ground) <= _ALIKE).mean())
