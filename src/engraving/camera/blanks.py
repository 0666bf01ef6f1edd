"""Blanks in a picture of the bed: what differs from it, its outline, middle and angle."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.spec import BlankPart

_LEAST_MM2 = 60.0
_LEAST_DIFFERENCE = 5.0
"""In CIE76 colour difference; uneven light on the bed makes less."""
_SPREADS = 6.0
_HEAL_MM = 1.6
_ROUND = 0.93
"""Share of its smallest circle that a round thing fills."""
_LIKE_MM = 1.5
_LIKE_SHARE = 0.04


@dataclass(frozen=True)
class FoundBlank:
    """Something that lies on the bed.

    Attributes
    ----------
    x_mm, y_mm : float
        Its middle, from the bed's front left corner.
    width_mm, height_mm, angle_deg : float
        The smallest rectangle round it, counter-clockwise, −45 to 45.
    round : bool
        Whether it is a disc.
    outline : tuple of (x, y)
        Its edge in mm.
    """

    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    angle_deg: float
    round: bool
    outline: tuple[tuple[float, float], ...]

    def turned_to(self, blank: BlankPart) -> float | None:
        """Return the angle at which a blank lies as this does; None where it is another."""
        if self.round != (blank.shape == "disc"):
            return None
        sides = blank.width_mm, blank.height_mm
        for turn in (0.0, 90.0):
            own = (self.width_mm, self.height_mm)[:: 1 if not turn else -1]
            near = all(
                abs(a - b) <= max(_LIKE_MM, _LIKE_SHARE * b)
                for a, b in zip(own, sides, strict=True)
            )
            if near:
                return 0.0 if self.round else self.angle_deg + turn
        return None


def find_blanks(picture: NDArray[np.uint8], px_mm: float) -> list[FoundBlank]:
    """Return what lies on the bed, from the front, left to right.

    What differs in colour from the bed, whose colour is the picture's commonest,
    by more than the bed does from itself. Each edge then runs half-way between
    the thing's own difference and none.

    Parameters
    ----------
    picture : ndarray of uint8, shape (rows, cols, 3)
        The bed from above, sRGB, row 0 at its back.
    px_mm : float
        Pixels of a mm.
    """
    size = min(max(2 * round(_HEAL_MM * px_mm / 2) + 1, 3), 31)
    around = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))
    calm, sharp = _difference(picture, size)
    spread = 1.4826 * float(np.median(np.abs(calm - np.median(calm))))
    lies = (calm > max(_LEAST_DIFFERENCE, _SPREADS * spread)).astype(np.uint8) * 255
    lies = np.asarray(cv2.morphologyEx(lies, cv2.MORPH_OPEN, around), np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(lies)
    deep = picture.shape[0] / px_mm
    found = []
    for label in range(1, count):
        if stats[label, cv2.CC_STAT_AREA] < _LEAST_MM2 * px_mm**2:
            continue
        edge = _edge((labels == label).astype(np.uint8), sharp, around)
        if edge is not None and cv2.contourArea(edge) >= _LEAST_MM2 * px_mm**2:
            found.append(_found(edge, px_mm, deep))
    return sorted(found, key=lambda one: (round(one.y_mm / 20), one.x_mm))


def _difference(
    picture: NDArray[np.uint8], size: int
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Return how far each pixel is from the bed's colour, the bed's web healed, and not."""
    healed = cv2.medianBlur(picture, size)
    labs = [
        cv2.cvtColor(one.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
        for one in (healed, cv2.medianBlur(picture, 3))
    ]
    bed = np.median(labs[0].reshape(-1, 3), axis=0)
    calm, sharp = (np.linalg.norm(lab - bed, axis=2).astype(np.float32) for lab in labs)
    return calm, sharp


def _edge(
    lies: NDArray[np.uint8], sharp: NDArray[np.float32], around: NDArray[np.uint8]
) -> NDArray[np.float32] | None:
    """Return the edge of one thing, in pixels, where its difference is half of its own."""
    inner = cv2.erode(lies, around, iterations=2)
    if not inner.any():
        inner = lies
    level = float(np.median(sharp[inner > 0])) / 2
    room = cv2.dilate(lies, around)
    own = ((sharp > level) & (room > 0)).astype(np.uint8)
    own = cv2.morphologyEx(own, cv2.MORPH_CLOSE, around)
    own = cv2.morphologyEx(own, cv2.MORPH_OPEN, around)
    contours, _ = cv2.findContours(own, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not contours:
        return None
    largest = max(contours, key=cv2.contourArea)
    return np.asarray(largest, np.float32).reshape(-1, 2)


def _found(points: NDArray[np.float32], px_mm: float, deep_mm: float) -> FoundBlank:
    # A contour runs through the outermost pixels' middles; the edge lies half one out.
    (x, y), (wide, high), turn = cv2.minAreaRect(points)
    wide, high = (wide + 1) / px_mm, (high + 1) / px_mm
    _, radius = cv2.minEnclosingCircle(points)
    area = cv2.contourArea(points) / px_mm**2
    disc = area > _ROUND * np.pi * ((radius + 0.5) / px_mm) ** 2
    angle = -turn  # y runs down in the picture
    while angle > 45:
        angle, wide, high = angle - 90, high, wide
    while angle <= -45:
        angle, wide, high = angle + 90, high, wide
    if disc:
        x, y = points.mean(axis=0)
        wide = high = 2 * np.sqrt(area / np.pi) + 1 / px_mm
        angle = 0.0
    fine = cv2.approxPolyDP(points, 0.4 * px_mm, True).reshape(-1, 2)
    outline = tuple(
        (round((float(px) + 0.5) / px_mm, 2), round(deep_mm - (float(py) + 0.5) / px_mm, 2))
        for px, py in fine
    )
    return FoundBlank(
        (float(x) + 0.5) / px_mm, deep_mm - (float(y) + 0.5) / px_mm,
        float(wide), float(high), float(angle), bool(disc), outline,
    )  # fmt: skip
