"""The whole bed seen by a camera above it: through a lens that bends, and a little aslant.

Where the camera hangs, how its lens bends and where blanks were laid is the
stand-in's own secret; nothing here is shared with the program that finds out.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from standins.camera.surface import Surface, marks_of

_FINE_MM = 0.15
_HONEYCOMB_MM = 8.0


@dataclass(frozen=True)
class Lying:
    """A blank on the bed: where its middle lies, in mm, and how it is turned."""

    shape: str
    width: float
    height: float
    x: float
    y: float
    angle_deg: float
    colour: tuple[float, float, float]


@dataclass(frozen=True)
class Hung:
    """How a camera hangs over a bed.

    Attributes
    ----------
    width, height : int
        Pixels of its picture.
    tilt : tuple of float
        Degrees it is turned about x and about y.
    roll : float
        Degrees it is turned about its own axis.
    bend : tuple of float
        Radial distortion k1 and k2 of the usual polynomial, focal lengths.
    noise : float
        In codes.
    """

    width: int = 1920
    height: int = 1600
    tilt: tuple[float, float] = (4.0, -3.0)
    roll: float = 1.5
    bend: tuple[float, float] = (-0.22, 0.05)
    noise: float = 1.5
    seed: int = 1


def hidden_camera(seed: int) -> Hung:
    """Return a camera that hangs as a seed has it."""
    draw = np.random.default_rng(seed)
    tilt = float(draw.uniform(-6, 6)), float(draw.uniform(-6, 6))
    bend = float(draw.uniform(-0.28, -0.1)), float(draw.uniform(0.0, 0.08))
    return Hung(tilt=tilt, roll=float(draw.uniform(-3, 3)), bend=bend, seed=seed)


def lay_blanks(
    pieces: list[tuple[str, float, float, tuple[float, float, float]]],
    bed: tuple[float, float],
    seed: int,
) -> list[Lying]:
    """Lay blanks on a bed, none over another, at places that a seed decides."""
    draw = np.random.default_rng(seed)
    laid: list[Lying] = []
    for shape, width, height, colour in pieces:
        reach = np.hypot(width, height) / 2
        for _ in range(400):
            x, y = (draw.uniform(reach + 4, side - reach - 4) for side in bed)
            apart = [
                np.hypot(x - o.x, y - o.y) - np.hypot(o.width, o.height) / 2 for o in laid
            ]
            if all(gap > reach + 3 for gap in apart):
                angle = float(draw.uniform(-40, 40)) if shape != "disc" else 0.0
                laid.append(Lying(shape, width, height, float(x), float(y), angle, colour))
                break
    return laid


def photograph_bed(
    strokes: NDArray[np.float64],
    surface: Surface | None,
    bed: tuple[float, float],
    laid: list[Lying],
    camera: Hung,
) -> NDArray[np.uint8]:
    """Return a photo of the bed, sRGB, shape (rows, cols, 3).

    Parameters
    ----------
    strokes : ndarray, shape (n, 6)
        What was burned, x to the right and y away, from the front left corner.
    surface : Surface or None
        A card that covers the bed; None leaves it bare.
    bed : tuple of float
        Its width and depth in mm.
    laid : list of Lying
        Blanks on it.
    camera : Hung
    """
    plane = _plane(strokes, surface, bed, laid)
    draw = np.random.default_rng(camera.seed)
    light = _through_the_lens(plane, bed, camera)
    rows, cols = light.shape[:2]
    up, across = np.mgrid[0:rows, 0:cols].astype(np.float32)
    lamp = 1 - 0.2 * ((across / cols - 0.55) ** 2 + (up / rows - 0.4) ** 2)
    light = np.clip(light * lamp[..., None], 0, 1)
    coded = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
    noisy = 255 * coded + draw.normal(0, camera.noise, coded.shape)
    return np.clip(np.rint(noisy), 0, 255).astype(np.uint8)


def _plane(
    strokes: NDArray[np.float64], surface: Surface | None, bed: tuple[float, float],
    laid: list[Lying],
) -> NDArray[np.float32]:  # fmt: skip
    """Return linear RGB of the bed from above, row 0 at the back."""
    cols, rows = (round(side / _FINE_MM) for side in bed)
    if surface is not None:
        return marks_of(strokes, surface, 0.0, 0.0, bed, _FINE_MM)[:rows, :cols]
    plane = np.full((rows, cols, 3), 0.035, np.float32)
    step = _HONEYCOMB_MM / _FINE_MM
    y, x = np.mgrid[0:rows, 0:cols]
    web = (np.abs(np.sin(np.pi * x / step)) < 0.1) | (
        np.abs(np.sin(np.pi * y / step)) < 0.1
    )
    plane[web] = 0.09
    for one in laid:
        corner = np.array(one.colour, np.float32)
        mask = np.zeros((rows, cols), np.uint8)
        cv2.fillPoly(mask, [_edge(one, bed)], 255, cv2.LINE_AA, shift=6)
        share = (mask / np.float32(255))[..., None]
        plane += (corner - plane) * share
    return plane


def _edge(one: Lying, bed: tuple[float, float]) -> NDArray[np.int32]:
    if one.shape == "disc":
        turn = np.linspace(0, 2 * np.pi, 240, endpoint=False)
        points = np.stack([np.cos(turn) * one.width, np.sin(turn) * one.height], axis=1) / 2
    else:
        half = one.width / 2, one.height / 2
        points = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)]) * half
    cos, sin = np.cos(np.radians(one.angle_deg)), np.sin(np.radians(one.angle_deg))
    turned = points @ np.array([[cos, sin], [-sin, cos]]) + (one.x, one.y)
    pixels = np.stack([turned[:, 0], bed[1] - turned[:, 1]], axis=1) / _FINE_MM - 0.5
    return np.rint(pixels * 64).astype(np.int32)


def _through_the_lens(
    plane: NDArray[np.float32], bed: tuple[float, float], camera: Hung
) -> NDArray[np.float32]:
    """Return what falls on the sensor: each pixel's ray, bent, meets the bed."""
    matrix = _bed_to_ideal(bed, camera)
    y, x = np.mgrid[0 : camera.height, 0 : camera.width].astype(np.float64)
    focal = float(max(camera.width, camera.height))
    u = (x - (camera.width - 1) / 2) / focal
    v = (y - (camera.height - 1) / 2) / focal
    # The lens moves ideal points to bent ones; here the way back is wanted.
    a, b = u.copy(), v.copy()
    k1, k2 = camera.bend
    for _ in range(12):
        r2 = a * a + b * b
        factor = 1 + k1 * r2 + k2 * r2 * r2
        a, b = u / factor, v / factor
    rays = np.stack([a.ravel(), b.ravel()], axis=1)[None]
    on_bed = cv2.perspectiveTransform(rays, np.linalg.inv(matrix))[0]
    where = on_bed.reshape(camera.height, camera.width, 2)
    across = (where[..., 0] / _FINE_MM - 0.5).astype(np.float32)
    down = ((bed[1] - where[..., 1]) / _FINE_MM - 0.5).astype(np.float32)
    near = cv2.GaussianBlur(plane, (0, 0), 1.0)
    return np.asarray(
        cv2.remap(near, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT,
                  borderValue=(0.02, 0.02, 0.02)),
        np.float32,
    )  # fmt: skip


def _bed_to_ideal(bed: tuple[float, float], camera: Hung) -> NDArray[np.float64]:
    """Return the map from mm of the bed to ideal points, in focal lengths."""
    ax, ay = np.radians(camera.tilt)
    az = np.radians(camera.roll)
    about_x = np.array(
        [[1, 0, 0], [0, np.cos(ax), -np.sin(ax)], [0, np.sin(ax), np.cos(ax)]]
    )
    about_y = np.array(
        [[np.cos(ay), 0, np.sin(ay)], [0, 1, 0], [-np.sin(ay), 0, np.cos(ay)]]
    )
    about_z = np.array(
        [[np.cos(az), -np.sin(az), 0], [np.sin(az), np.cos(az), 0], [0, 0, 1]]
    )
    turned = about_z @ about_y @ about_x
    focal = max(camera.width, camera.height)
    high = 1.18 * max(bed[0] * focal / camera.width, bed[1] * focal / camera.height)
    centred = np.array([[1, 0, -bed[0] / 2], [0, -1, bed[1] / 2], [0, 0, 1.0]])
    flat = np.stack([turned[:, 0], turned[:, 1], np.array([0, 0, high])], axis=1)
    return np.asarray(flat @ centred)
