"""Where a piece lies in its photo: by what is on it, its tones, outline, or four points."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.colour.light import to_coded
from engraving.errors import ArtworkError
from engraving.geometry.homography import homography, shift
from engraving.jobspec import BlankPart, SizePart
from engraving.pieces.expected import Expected
from engraving.pieces.laid import Found, Matrix, Plane, brought

Codes = NDArray[np.uint8]

_LOOKED_PX = 1200
_FAINT, _DOTS_PX = 0.01, 2.0
_NEAREST = 0.78
"""A feature counts where its second best match is so much farther (Lowe 2004 has 0.8)."""
_LEAST_MATCHES = 14
_OFF_PX = 3.0
_ROUND_TURNS = 24
_LEAST_SHARE, _MOST_SHARE = 0.08, 0.97
_COARSE_PX = 80
_STARTS = (0.97, 0.8, 0.6)
_QUICK, _LONG, _FOLLOWED = 3, 25, 4


@dataclass(frozen=True)
class Points:
    """Four points of a piece by which its photo is squared, and what to call them.

    Attributes
    ----------
    places : tuple of (x, y)
        In mm from the picture's lower left corner, y away.
    names : tuple of str
    of : str
        What they are points of: ``the picture`` or ``the blank``.
    """

    places: tuple[tuple[float, float], ...]
    names: tuple[str, ...]
    of: str

    @classmethod
    def of_piece(cls, size: SizePart, blank: BlankPart) -> "Points":
        """Return a picture's corners; of a round blank that it covers, its edge's ends."""
        x, y = size.width_mm / 2 - size.offset_x_mm, size.height_mm / 2 - size.offset_y_mm
        wide, high = blank.width_mm / 2, blank.height_mm / 2
        if blank.shape in ("disc", "oval") and size.width_mm * size.height_mm > wide * high:
            places = (x - wide, y), (x + wide, y), (x, y - high), (x, y + high)
            return cls(places, ("left", "right", "front", "back"), "the blank's edge")
        w, h = size.width_mm, size.height_mm
        names = "front left", "front right", "back left", "back right"
        return cls(((0, 0), (w, 0), (0, h), (w, h)), names, "the picture")


def squared_by(expected: Expected, places: Sequence[tuple[float, float]]) -> Found:
    """Return the map by which four points of a photo are those of the piece.

    Raises
    ------
    ArtworkError
        When they make no four-sided figure.
    """
    points = Points.of_piece(expected.size, expected.blank)
    seen = np.array(places, np.float64)
    ring = [0, 1, 3, 2] if points.of == "the picture" else [0, 2, 1, 3]
    corners = seen[ring].astype(np.float32) if seen.shape == (4, 2) else None
    if corners is None or not np.isfinite(seen).all() or not cv2.isContourConvex(corners):
        raise ArtworkError("The four points must make a four-sided figure.")
    if cv2.contourArea(corners) < 400:
        raise ArtworkError("The four points lie too near to one another.")
    return Found(homography(expected.frame.to_pixels(points.places), seen), "points")


def likeness(expected: Expected) -> Codes:
    """Return the expected piece as codes, its tones spread over all of them."""
    return _spread(to_coded(expected.picture()))


def _spread(coded: NDArray[np.floating]) -> Codes:
    low, high = np.percentile(coded, [0.5, 99.5])
    span = max(float(high - low), 1e-3)
    return np.rint(np.clip((coded - low) / span, 0, 1) * 255).astype(np.uint8)


def find_by_content(expected: Expected, gray: Codes) -> Found | None:
    """Return where a photo shows what is expected; None where too little is alike.

    Features of both (SIFT; Lowe 2004, Int. J. Comput. Vis. 60:91-110), matched,
    and the map most of them agree on. A mirrored piece is found as one.

    Parameters
    ----------
    expected : Expected
    gray : ndarray of uint8, shape (rows, cols)
        The photo.
    """
    wanted = likeness(expected)
    scale = min(1.0, _LOOKED_PX / max(gray.shape))
    size = round(gray.shape[1] * scale), round(gray.shape[0] * scale)
    small = cv2.resize(gray, size, interpolation=cv2.INTER_AREA)
    sift = cv2.SIFT.create(3000, contrastThreshold=_FAINT)
    # Dots are no features: what they are made of is blurred away first.
    in_photo = sift.detectAndCompute(
        cv2.GaussianBlur(_spread(np.asarray(small, np.uint8)), (0, 0), _DOTS_PX), None
    )
    found = None
    for mirrored in (False, True):
        own = np.ascontiguousarray(wanted[:, ::-1]) if mirrored else wanted
        own = np.asarray(cv2.GaussianBlur(own, (0, 0), _DOTS_PX), np.uint8)
        matched = _matched(sift.detectAndCompute(own, None), in_photo)
        if matched is not None and (found is None or matched[1] > found[1]):
            found = (matched[0], matched[1], mirrored)
    if found is None:
        return None
    matrix, _, mirrored = found
    back = np.diag([1 / scale, 1 / scale, 1.0])
    wide = wanted.shape[1]
    flip = np.array([[-1, 0, wide], [0, 1, 0], [0, 0, 1.0]]) if mirrored else np.eye(3)
    return Found(np.asarray(back @ matrix @ flip), "content", mirrored)


def _matched(own: tuple, seen: tuple) -> tuple[Matrix, int] | None:  # type: ignore[type-arg]
    (points, told), (others, said) = own, seen
    if told is None or said is None or min(len(points), len(others)) < _LEAST_MATCHES:
        return None
    pairs = cv2.BFMatcher().knnMatch(told, said, k=2)
    good = [p[0] for p in pairs if len(p) == 2 and p[0].distance < _NEAREST * p[1].distance]
    if len(good) < _LEAST_MATCHES:
        return None
    here = np.array([points[one.queryIdx].pt for one in good], np.float64) + 0.5
    there = np.array([others[one.trainIdx].pt for one in good], np.float64) + 0.5
    # Sampling from a fixed seed: the same photo is read the same way again.
    cv2.setRNGSeed(1)
    matrix, kept = cv2.findHomography(here, there, cv2.RANSAC, _OFF_PX, maxIters=4000)
    agree = int(np.sum(kept)) if np.ndim(matrix) else 0
    return (np.asarray(matrix), agree) if agree >= _LEAST_MATCHES else None


def find_by_outline(expected: Expected, colours: Codes) -> Iterable[Found]:
    """Return the ways a blank may lie whose outline a photo shows.

    The blank is what differs from the photo's rim; a rectangle may lie in four
    ways, a round one in any.
    """
    edge = _outline(colours)
    if edge is None:
        return
    blank, size = expected.blank, expected.size
    x, y = size.width_mm / 2 - size.offset_x_mm, size.height_mm / 2 - size.offset_y_mm
    wide, high = blank.width_mm / 2, blank.height_mm / 2
    if blank.shape in ("disc", "oval"):
        yield from _round_ways(expected, edge, (x, y))
        return
    corners = np.asarray(cv2.boxPoints(cv2.minAreaRect(edge)), np.float64)
    own = [
        (x - wide, y + high),
        (x + wide, y + high),
        (x + wide, y - high),
        (x - wide, y - high),
    ]
    for k in range(4):
        seen = np.roll(_clockwise(corners), k, axis=0)
        yield Found(homography(expected.frame.to_pixels(own), seen), "outline")


def _round_ways(
    expected: Expected, edge: NDArray[np.int32], middle: tuple[float, float]
) -> Iterable[Found]:
    """Return the ways in which an oval's ends may lie on an edge; of a disc any turn."""
    (cx, cy), (a, b), turn = cv2.fitEllipse(edge)
    ends = np.array([0, np.pi, np.pi / 2, 1.5 * np.pi])
    half = np.array([a, a, b, b]) / 2
    out = np.radians(turn) + ends
    seen = np.stack([cx + half * np.cos(out), cy + half * np.sin(out)], axis=1)
    wide, high = expected.blank.width_mm / 2, expected.blank.height_mm / 2
    disc = abs(wide - high) < 0.01 * wide
    steps = _ROUND_TURNS if disc else 2
    across = 0.0 if disc or (a < b) == (wide < high) else np.pi / 2
    for k in range(steps):
        own = ends + across - 2 * np.pi * k / steps
        places = [(middle[0] + wide * np.cos(t), middle[1] - high * np.sin(t)) for t in own]
        yield Found(homography(expected.frame.to_pixels(places), seen), "outline")


def _clockwise(corners: NDArray[np.floating]) -> NDArray[np.float64]:
    middle = corners.mean(axis=0)
    turn = np.arctan2(corners[:, 1] - middle[1], corners[:, 0] - middle[0])
    return np.asarray(corners[np.argsort(turn)], np.float64)


def _outline(colours: Codes) -> NDArray[np.int32] | None:
    """Return the edge of the one thing a photo shows; None where nothing or all is it."""
    scale = min(1.0, 600 / max(colours.shape))
    size = round(colours.shape[1] * scale), round(colours.shape[0] * scale)
    small = cv2.medianBlur(cv2.resize(colours, size, interpolation=cv2.INTER_AREA), 5)
    lab = cv2.cvtColor(small.astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
    sides = lab[:4], lab[-4:], lab[:, :4], lab[:, -4:]
    rim = np.concatenate([side.reshape(-1, 3) for side in sides])
    away = np.linalg.norm(lab - np.median(rim, axis=0), axis=2)
    level, mask = cv2.threshold(
        np.clip(away * 2, 0, 255).astype(np.uint8),
        0,
        1,
        cv2.THRESH_BINARY + cv2.THRESH_OTSU,
    )
    mask = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((9, 9), np.uint8))
    lines, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if level < 12 or not lines:
        return None
    largest = max(lines, key=cv2.contourArea)
    share = cv2.contourArea(largest) / mask.size
    if not _LEAST_SHARE < share < _MOST_SHARE or len(largest) < 8:
        return None
    return np.asarray(np.rint(largest / scale), np.int32)


def find_by_tones(expected: Expected, coded: Plane) -> list[Found]:
    """Return the ways in which a piece that fills most of a photo may lie, likeliest first.

    Light and dark are brought to agree, coarsely, from every quarter turn, mirrored or
    not, and from three sizes.
    """
    wanted, step = _coarse(likeness(expected).astype(np.float32) / np.float32(255))
    photo, shrunk = _coarse(coded)
    tried = []
    for start, mirrored in _starts(expected.frame.pixels, coded.shape):
        small = np.diag([shrunk, shrunk, 1]) @ start @ np.diag([1 / step, 1 / step, 1])
        tried.append((*brought(wanted, photo, small, _QUICK), mirrored))
    tried.sort(key=lambda one: -one[0])
    found = [
        (*brought(wanted, photo, matrix, _LONG), mirrored)
        for _, matrix, mirrored in tried[:_FOLLOWED]
    ]
    found.sort(key=lambda one: -one[0])
    back, own = np.diag([1 / shrunk, 1 / shrunk, 1]), np.diag([step, step, 1])
    return [
        Found(np.asarray(back @ matrix @ own), "tones", mirrored)
        for _, matrix, mirrored in found
    ]


def _starts(
    pixels: tuple[int, int], photo: tuple[int, ...]
) -> Iterable[tuple[Matrix, bool]]:
    """Return maps from the frame's middle to the photo's, and whether they mirror."""
    cols, rows = pixels
    high, wide = photo[:2]
    for quarter in range(4):
        box = (cols, rows) if quarter % 2 == 0 else (rows, cols)
        for flip in (1.0, -1.0):
            for share in _STARTS:
                scale = share * min(wide / box[0], high / box[1])
                turn = _quarter(quarter, scale, flip)
                yield (
                    shift(wide / 2, high / 2) @ turn @ shift(-cols / 2, -rows / 2),
                    flip < 0,
                )


def _quarter(quarter: int, scale: float, flip: float) -> Matrix:
    cos, sin = (1, 0, -1, 0)[quarter], (0, 1, 0, -1)[quarter]
    turn = np.array([[cos, -sin, 0], [sin, cos, 0], [0, 0, 1.0]])
    return np.asarray(turn @ np.diag([flip * scale, scale, 1.0]))


def _coarse(plane: Plane) -> tuple[Plane, float]:
    scale = min(1.0, _COARSE_PX / max(plane.shape))
    size = max(round(plane.shape[1] * scale), 8), max(round(plane.shape[0] * scale), 8)
    return np.asarray(
        cv2.resize(plane, size, interpolation=cv2.INTER_AREA), np.float32
    ), scale
