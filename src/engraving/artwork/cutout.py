"""Find a subject by its colours: GrabCut on a small likeness of the picture.

Source: Rother, Kolmogorov & Blake 2004, ACM Trans. Graphics 23:309–314; the
implementation is OpenCV's. Its random start is pinned, so that a job gives
the same mask each time.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.artwork.strokes import pixels, stroke_plane
from engraving.geometry.shrinking import shrunk
from engraving.jobspec import CutOut, Point

COARSE_PX, FINE_PX = 224, 448
_ROUNDS = 3
_BAND_PX = 9
_COLLAPSED = 0.05
_SMOOTH_PX = 1.1
_STEEP = 4.0
_SEED = 20_040_801

Labels = NDArray[np.uint8]


def cut_subject(rgb: NDArray[np.uint8], edit: CutOut) -> NDArray[np.uint8]:
    """Return the subject's mask, 255 = subject.

    Found on a coarse likeness, then its edge once more on a finer one: cuts
    of large even areas take long, and the edge is all that the finer one adds.

    Parameters
    ----------
    rgb : ndarray of uint8, shape (height, width, 3)
    edit : CutOut
        An outline round the subject, and strokes that say what belongs to it.

    Returns
    -------
    ndarray of uint8, shape (height, width)
    """
    height, width = rgb.shape[:2]
    found = _coarse(shrunk(rgb, COARSE_PX), edit)
    fine = shrunk(rgb, FINE_PX)
    if fine.shape[:2] != found.shape:
        guess = _enlarged(found, fine.shape[1], fine.shape[0]) >= 128
        found = _refined(fine, np.where(guess, 255, 0).astype(np.uint8), edit)
    return _enlarged(found, width, height)


def _enlarged(mask: NDArray[np.uint8], width: int, height: int) -> NDArray[np.uint8]:
    if mask.shape == (height, width):
        return mask
    # A little blur first, or the small mask's pixels show as stairs.
    soft = cv2.GaussianBlur(mask, (0, 0), _SMOOTH_PX)
    large = cv2.resize(soft, (width, height), interpolation=cv2.INTER_CUBIC)
    steep = (np.asarray(large, np.float32) - 127.5) * _STEEP + 127.5
    return np.asarray(steep.clip(0, 255), np.uint8)


def _coarse(rgb: NDArray[np.uint8], edit: CutOut) -> NDArray[np.uint8]:
    height, width = rgb.shape[:2]
    labels = np.full((height, width), cv2.GC_BGD, np.uint8)
    inside = polygon(edit.outline, width, height) > 0
    labels[inside] = cv2.GC_PR_FGD
    _hint(labels, edit)
    models = np.zeros((1, 65)), np.zeros((1, 65))
    found = _subject(labels)
    for turn in range(_ROUNDS):
        _cut(rgb, labels, models, first=turn == 0)
        # Where subject and ground look alike the subject may shrink to nothing.
        if _subject(labels).sum() < _COLLAPSED * inside.sum() * 255:
            break
        found = _subject(labels)
    return found


def _refined(
    rgb: NDArray[np.uint8], mask: NDArray[np.uint8], edit: CutOut
) -> NDArray[np.uint8]:
    kernel = np.ones((2 * _BAND_PX + 1, 2 * _BAND_PX + 1), np.uint8)
    labels = np.full(mask.shape, cv2.GC_BGD, np.uint8)
    labels[cv2.dilate(mask, kernel) > 0] = cv2.GC_PR_BGD
    labels[mask > 0] = cv2.GC_PR_FGD
    labels[cv2.erode(mask, kernel) > 0] = cv2.GC_FGD
    _hint(labels, edit)
    _cut(rgb, labels, (np.zeros((1, 65)), np.zeros((1, 65))), first=True)
    return _subject(labels)


def _hint(labels: Labels, edit: CutOut) -> None:
    height, width = labels.shape
    for hint in edit.hints:
        touched = stroke_plane(hint, width, height) >= 0.5
        labels[touched] = cv2.GC_FGD if hint.keep else cv2.GC_BGD


def _cut(
    rgb: NDArray[np.uint8],
    labels: Labels,
    models: tuple[NDArray[np.float64], NDArray[np.float64]],
    *,
    first: bool,
) -> None:
    """Do one round; the labels change in place."""
    subject = _subject(labels) > 0
    # It needs both kinds to learn from.
    if subject.all() or not subject.any():
        return
    cv2.setRNGSeed(_SEED)
    way = cv2.GC_INIT_WITH_MASK if first else cv2.GC_EVAL
    everywhere = (0, 0, labels.shape[1], labels.shape[0])
    cv2.grabCut(rgb, labels, everywhere, models[0], models[1], 1, way)


def _subject(labels: Labels) -> NDArray[np.uint8]:
    subject = np.isin(labels, (cv2.GC_FGD, cv2.GC_PR_FGD))
    return np.where(subject, 255, 0).astype(np.uint8)


def polygon(points: tuple[Point, ...], width: int, height: int) -> NDArray[np.uint8]:
    """Return a filled polygon, 255 inside, its edge smooth."""
    out = np.zeros((height, width), np.uint8)
    bits = 8
    fixed = np.rint((pixels(points, width, height) - 0.5) * (1 << bits)).astype(np.int32)
    cv2.fillPoly(out, [fixed], 255, cv2.LINE_AA, bits)
    return out
