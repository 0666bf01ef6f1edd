"""Blanks in a picture of the bed: what differs from it, its outline, middle and angle."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.camera.fits import Fitted, fit_shape
from engraving.colour.light import LINEAR_OF_CODE, to_coded
from engraving.jobspec import BlankPart

_LEAST_MM2 = 60.0
_LEAST_DIFFERENCE = 3.5
"""In CIE76 colour difference; what a bed's own dirt makes is less."""
_SPREADS = 6.0
_HEAL_MM = 1.8
_LIKE_MM = 1.5
_LIKE_SHARE = 0.04
_COARSE = 48
_ROUNDS = 20

Light = NDArray[np.float32]
Mask = NDArray[np.uint8]


@dataclass(frozen=True)
class FoundBlank:
    """Something that lies on the bed.

    Attributes
    ----------
    x_mm, y_mm : float
        Its middle, from the bed's front left corner.
    width_mm, height_mm, angle_deg : float
        The rectangle that fits it best, counter-clockwise, −45 to 45.
    round : bool
        Whether a circle fits it better.
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

    What differs in colour from the bed by more than the bed does from itself;
    the bed must take up more than half of the picture. Each edge then runs
    where the light is half-way between the bed's and the thing's.

    Parameters
    ----------
    picture : ndarray of uint8, shape (rows, cols, 3)
        The bed from above, sRGB, row 0 at its back.
    px_mm : float
        Pixels of a mm.
    """
    size = min(max(2 * round(_HEAL_MM * px_mm / 2) + 1, 3), 31)
    around = _disc(size)
    light = _evenly_lit(LINEAR_OF_CODE[picture])
    lies = _lying(light, size)
    lies = np.asarray(cv2.morphologyEx(lies, cv2.MORPH_OPEN, around), np.uint8)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(lies)
    bed = np.median(light[lies == 0], axis=0)
    taken = np.zeros_like(lies)
    found = []
    for label in np.argsort(-stats[:, cv2.CC_STAT_AREA]):
        seed = labels == label
        if label == 0 or stats[label, cv2.CC_STAT_AREA] < _LEAST_MM2 * px_mm**2:
            continue
        if taken[seed].mean() > 0.5:
            continue
        edge = _edge(seed, _around(stats[label], lies.shape), light, bed, taken, size)
        if edge is not None and cv2.contourArea(edge) >= _LEAST_MM2 * px_mm**2:
            found.append(_in_mm(fit_shape(edge), edge, px_mm, picture.shape[0] / px_mm))
    return sorted(found, key=lambda one: (round(one.y_mm / 20), one.x_mm))


def _disc(size: int) -> Mask:
    shape = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size))
    return np.asarray(shape, np.uint8)


def _evenly_lit(light: Light) -> Light:
    """Return light over what the bare bed sends back there, times its middle's.

    The bed's light is a square surface over the picture, fitted to the least
    sum of absolute differences, so that what lies on it counts little.
    """
    few = cv2.resize(light, (_COARSE, _COARSE), interpolation=cv2.INTER_AREA)
    gray = few.mean(axis=2).ravel().astype(np.float64)
    terms = _terms(_COARSE, _COARSE)
    weight = np.ones_like(gray)
    for _ in range(_ROUNDS):
        factors = np.linalg.lstsq(
            terms * np.sqrt(weight)[:, None], gray * np.sqrt(weight), rcond=None
        )[0]
        weight = 1 / np.maximum(np.abs(gray - terms @ factors), 1e-4)
    lamp = (terms @ factors).reshape(_COARSE, _COARSE).astype(np.float32)
    lamp = np.maximum(lamp / max(float(np.median(lamp)), 1e-4), 0.2)
    large = cv2.resize(lamp, light.shape[1::-1], interpolation=cv2.INTER_CUBIC)
    return np.asarray(light / large[..., None], np.float32)


def _terms(rows: int, cols: int) -> NDArray[np.float64]:
    y, x = (part.ravel() for part in np.mgrid[-1 : 1 : rows * 1j, -1 : 1 : cols * 1j])
    return np.stack([np.ones_like(x), x, y, x * y, x * x, y * y], axis=1)


def _lying(light: Light, size: int) -> Mask:
    """Return where the picture differs from the bed, the bed's web healed."""
    top = max(float(np.percentile(light, 99.9)), 1e-3)
    codes = np.rint(255 * to_coded(light / top)).astype(np.uint8)
    coded = to_coded(LINEAR_OF_CODE[cv2.medianBlur(codes, size)] * top)
    lab = cv2.cvtColor(coded.astype(np.float32), cv2.COLOR_RGB2LAB)
    away = np.linalg.norm(lab - np.median(lab.reshape(-1, 3), axis=0), axis=2)
    spread = 1.4826 * float(np.median(np.abs(away - np.median(away))))
    return (away > max(_LEAST_DIFFERENCE, _SPREADS * spread)).astype(np.uint8)


def _around(stats: NDArray[np.int32], shape: tuple[int, ...]) -> tuple[slice, slice]:
    """Return the part of a picture that a thing of which some is found may reach to."""
    left, top, wide, high = (int(v) for v in stats[:4])
    more = max(wide, high)
    down = slice(max(top - more, 0), min(top + high + more, shape[0]))
    return down, slice(max(left - more, 0), min(left + wide + more, shape[1]))


def _edge(
    seed: NDArray[np.bool_], part: tuple[slice, slice], light: Light,
    bed: NDArray[np.float32], taken: Mask, size: int,
) -> NDArray[np.float32] | None:  # fmt: skip
    """Return the edge of one thing, in pixels, where light is half-way to the bed's.

    Of a thing hardly other than the bed, `seed` may be a small part only.
    What it takes up is marked in `taken`.
    """
    own, here = seed[part].astype(np.uint8), light[part]
    around = _disc(size)
    inner = cv2.erode(own, around, iterations=2)
    inner = inner if inner.any() else own
    way = np.median(here[inner > 0], axis=0) - bed
    share = ((here - bed) @ way) / max(float(way @ way), 1e-9)
    # A median takes the bed's web away, and leaves straight edges where they are.
    codes = np.clip(100 + 100 * share, 0, 255).astype(np.uint8)
    over = (cv2.medianBlur(codes, size) > 150).astype(np.uint8)
    whole = cv2.morphologyEx(over, cv2.MORPH_CLOSE, around)
    smooth = np.asarray(cv2.morphologyEx(whole, cv2.MORPH_OPEN, around), np.uint8)
    _, labels = cv2.connectedComponents(smooth)
    most = np.bincount(labels[own > 0], minlength=2)
    most[0] = 0
    if not most.any():
        return None
    thing = (labels == most.argmax()).astype(np.uint8)
    taken[part] |= thing
    contours, _ = cv2.findContours(thing, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    largest = max(contours, key=cv2.contourArea).reshape(-1, 2)
    corner = np.array([part[1].start, part[0].start])
    return np.asarray(largest + corner, np.float32)


def _in_mm(
    shape: Fitted, edge: NDArray[np.float32], px_mm: float, deep_mm: float
) -> FoundBlank:
    """Return a thing measured in mm; y runs up, and an angle the other way round."""
    fine = cv2.approxPolyDP(edge, 0.4 * px_mm, True).reshape(-1, 2)
    outline = tuple(
        (round((float(x) + 0.5) / px_mm, 2), round(deep_mm - (float(y) + 0.5) / px_mm, 2))
        for x, y in fine
    )
    # A contour runs through the outermost pixels' middles; the edge lies half one out.
    return FoundBlank(
        (shape.x + 0.5) / px_mm, deep_mm - (shape.y + 0.5) / px_mm,
        (shape.width + 1) / px_mm, (shape.height + 1) / px_mm, -shape.angle_deg,
        shape.round, outline,
    )  # fmt: skip
