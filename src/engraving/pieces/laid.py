"""A photo laid over what was expected, and moved until the two agree best."""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.geometry.homography import mapped, shift
from engraving.pieces.expected import Expected

Matrix = NDArray[np.float64]
Plane = NDArray[np.float32]

HALF = shift(0.5, 0.5)
"""OpenCV counts from the first pixel's middle, we from its edge."""

_LEVELS = ((110, 40), (220, 30), (440, 20))
"""Pixels of the longer side, and the most steps, one after the other."""
_FARTHEST = 0.15
"""Of its diagonal, that a piece is moved while it is laid over its proof."""
_BLUR = 1.2
_MOST_FINE = 6
_LEAST_STEP = 2e-3
_DAMPING = 1e-3
_LEAST_SEEN = 0.3


@dataclass(frozen=True)
class Found:
    """A map from the frame's pixels to the photo's, how it was come by, and its turn."""

    matrix: Matrix
    by: str
    mirrored: bool = False


def laid_over(matrix: Matrix, plane: Plane, pixels: tuple[int, int]) -> Plane:
    """Return a photo's plane over a frame, area-averaged; beyond the photo NaN.

    Parameters
    ----------
    matrix : ndarray, shape (3, 3)
        From the frame's pixels to the photo's.
    plane : ndarray of float32
    pixels : tuple of int
        Columns and rows wanted.
    """
    cols, rows = pixels
    ends = np.array([[0, 0], [cols, 0], [cols, rows], [0, rows]], np.float64)
    seen = mapped(matrix, ends)
    sides = np.hypot(*(np.roll(seen, -1, axis=0) - seen).T)
    more = int(np.clip(np.ceil(max(sides[0] / cols, sides[1] / rows)), 1, _MOST_FINE))
    fine = np.diag([1 / more, 1 / more, 1.0])
    whole = np.linalg.inv(HALF) @ matrix @ fine @ HALF
    laid = cv2.warpPerspective(
        plane, whole, (cols * more, rows * more), borderValue=float("nan"),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_CONSTANT,
    )  # fmt: skip
    return np.asarray(cv2.resize(laid, (cols, rows), interpolation=cv2.INTER_AREA))


def refined(
    expected: Expected, likeness: NDArray[np.uint8], found: Found, coded: Plane
) -> Found:
    """Return a map moved to where the photo agrees best with what is expected.

    Parameters
    ----------
    expected : Expected
    likeness : ndarray of uint8
        Its picture over the frame.
    found : Found
    coded : ndarray of float32
        The photo's gray 0..1.
    """
    whole = likeness.astype(np.float32) / 255
    matrix = found.matrix
    for longest, steps in _LEVELS:
        scale = min(1.0, longest / max(whole.shape))
        size = round(whole.shape[1] * scale), round(whole.shape[0] * scale)
        own = np.diag([whole.shape[1] / size[0], whole.shape[0] / size[1], 1.0])
        shrunken = cv2.resize(whole, size, interpolation=cv2.INTER_AREA)
        wanted = np.asarray(shrunken, np.float32)
        face = cv2.resize(
            expected.on_blank.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST
        )
        near, shrunk = _near(coded, matrix @ own, size)
        _, there = brought(wanted, near, shrunk @ matrix @ own, steps, face.astype(bool))
        matrix = np.linalg.inv(shrunk) @ there @ np.linalg.inv(own)
    cols, rows = expected.frame.pixels
    ends = np.array([[0, 0], [cols, 0], [cols, rows], [0, rows]], np.float64)
    before, after = mapped(found.matrix, ends), mapped(matrix, ends)
    far = np.hypot(*(after - before).T).max()
    if not far < _FARTHEST * np.hypot(*(before[2] - before[0])):
        return found
    return replace(found, matrix=matrix)


def _near(photo: Plane, matrix: Matrix, pixels: tuple[int, int]) -> tuple[Plane, Matrix]:
    """Return a photo shrunk to about two pixels a frame's, and by what map."""
    cols, rows = pixels
    ends = mapped(matrix, np.array([[0, 0], [cols, rows]], np.float64))
    closeness = float(np.hypot(*(ends[1] - ends[0]))) / np.hypot(cols, rows)
    scale = min(1.0, 2 / max(closeness, 1e-6))
    high, wide = photo.shape
    size = max(round(wide * scale), 1), max(round(high * scale), 1)
    shrunk = np.diag([size[0] / wide, size[1] / high, 1.0])
    small = cv2.resize(photo, size, interpolation=cv2.INTER_AREA)
    return np.asarray(small, np.float32), shrunk


def brought(
    wanted: Plane,
    photo: Plane,
    start: Matrix,
    steps: int,
    face: NDArray[np.bool_] | None = None,
) -> tuple[float, Matrix]:
    """Return how well a photo agrees with a picture once it is moved, and the map.

    Gauss-Newton steps of a homography composed with the last (Lucas & Kanade 1981;
    Baker & Matthews 2004, Int. J. Comput. Vis. 56:221-255, the forward compositional
    way), together with what the light may do: a gain, a lift and a slope across. The
    first map is kept where no step agrees better.

    Parameters
    ----------
    wanted : ndarray of float32, shape (rows, cols)
    photo : ndarray of float32
        Gray 0..1, of any size.
    start : ndarray, shape (3, 3)
        From the picture's pixels to the photo's.
    steps : int
        How many at most.
    face : ndarray of bool, shape (rows, cols), optional
        Where the picture counts.

    Returns
    -------
    agrees : float
        Multiple correlation, 0..1; 0 where too little of the photo lies there.
    matrix : ndarray, shape (3, 3)
    """
    rows, cols = wanted.shape
    y, x = np.mgrid[0:rows, 0:cols]
    # Shares of the longer side about the middle: all eight unknowns are then alike.
    unit = max(rows, cols) / 2
    x, y = (x + 0.5 - cols / 2) / unit, (y + 0.5 - rows / 2) / unit
    to_unit = np.diag([1 / unit, 1 / unit, 1.0]) @ shift(-cols / 2, -rows / 2)
    wanted = np.asarray(cv2.GaussianBlur(wanted, (0, 0), _BLUR), np.float32)
    best, matrix, kept = 0.0, start, start
    for _ in range(steps + 1):
        laid = laid_over(matrix, photo, (cols, rows))
        there = np.isfinite(laid) if face is None else np.isfinite(laid) & face
        there[[0, -1]] = there[:, [0, -1]] = False
        if there.mean() < _LEAST_SEEN * (1 if face is None else face.mean()):
            break
        solved = _solved(wanted, laid, (x, y), unit, there)
        if solved is None:
            break
        agrees, step = solved
        if agrees > best:
            best, kept = agrees, matrix
        matrix = matrix @ np.linalg.inv(to_unit) @ step @ to_unit
        matrix = matrix / matrix[2, 2]
        if (
            not np.isfinite(matrix).all()
            or np.abs(step - np.eye(3)).max() < _LEAST_STEP / unit
        ):
            break
    return best, kept


def _solved(
    wanted: Plane, laid: Plane, at: tuple[NDArray[np.float64], NDArray[np.float64]],
    unit: float, there: NDArray[np.bool_],
) -> tuple[float, Matrix] | None:  # fmt: skip
    """Return how well both agree where they lie, and the next step in unit coordinates."""
    seen = np.where(there, laid, np.float32(np.median(laid[there])))
    seen = cv2.GaussianBlur(seen.astype(np.float32), (0, 0), _BLUR)
    inner = cv2.erode(there.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
    if inner.sum() < 64:
        return None
    across = (cv2.Sobel(seen, cv2.CV_32F, 1, 0, ksize=3) / 8 * unit)[inner].astype(
        np.float64
    )
    down = (cv2.Sobel(seen, cv2.CV_32F, 0, 1, ksize=3) / 8 * unit)[inner].astype(np.float64)
    x, y = at[0][inner], at[1][inner]
    here, target = seen[inner].astype(np.float64), wanted[inner].astype(np.float64)
    light = np.stack([here, np.ones_like(x), x, y], axis=1)
    weights, *_ = np.linalg.lstsq(light, target, rcond=None)
    left = target - light @ weights
    spread = float(((target - target.mean()) ** 2).sum())
    agrees = (
        np.sqrt(max(1 - float(left @ left) / max(spread, 1e-12), 0.0))
        if weights[0] > 0
        else 0.0
    )
    gain = max(float(weights[0]), 1e-3)
    gx, gy = gain * across, gain * down
    radial = x * gx + y * gy
    moves = np.stack(
        [x * gx, y * gx, gx, x * gy, y * gy, gy, -x * radial, -y * radial], axis=1
    )
    rows = np.concatenate([moves, light], axis=1)
    normal = rows.T @ rows
    damped = normal + _DAMPING * np.diag(np.diag(normal) + 1e-9)
    found = np.linalg.solve(damped, rows.T @ left)[:8]
    step = np.eye(3) + np.append(found, 0.0).reshape(3, 3)
    return float(agrees), step
