"""A photo or scan of a card: its corners found, its perspective and light made even.

Corners come from the four corner marks (see `engraving.camera.codes`) or from
four clicks. What is measured is the light a patch gives back against the bare
substrate round it, so exposure and white balance of the camera drop out.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.camera import find_marks
from engraving.camera.lamp import fit_lamp, lamp_over
from engraving.cards.layout import MARK_MM, Layout
from engraving.colour.light import to_coded, to_linear
from engraving.colour.lightness import WEIGHTS
from engraving.errors import ArtworkError

Point = tuple[float, float]
_MOST_PX_MM = 40.0
_LEAST_PX_MM = 4.0
_FAINT = 0.02


@dataclass(frozen=True)
class Flat:
    """A card seen straight from above.

    Attributes
    ----------
    light : ndarray of float32, shape (rows, cols)
        Luminance against the bare substrate at the same place, 1 = bare; row
        0 is the back.
    look : ndarray of uint8, shape (rows, cols, 3)
        The photo itself, in even light, sRGB.
    px_mm : float
        Pixels of a mm.
    corners : tuple of Point
        The card's corners in the photo's pixels: front left, front right,
        back left, back right.
    residual_mm : float
        Root mean square of how far the corner marks' corners lie off; 0 where
        corners were clicked.
    """

    light: NDArray[np.float32]
    look: NDArray[np.uint8]
    px_mm: float
    corners: tuple[Point, ...]
    residual_mm: float

    def box(self, x: float, y: float, width: float, height: float) -> NDArray[np.float32]:
        """Return the pixels of a box in mm from the card's front left corner."""
        top = self.light.shape[0] - round((y + height) * self.px_mm)
        left = round(x * self.px_mm)
        down, across = (max(round(side * self.px_mm), 1) for side in (height, width))
        return self.light[max(top, 0) : top + down, max(left, 0) : left + across]


def find_corners(codes: NDArray[np.uint8], layout: Layout) -> tuple[Point, ...]:
    """Return the card's corners in a photo's pixels, from its corner marks.

    Raises
    ------
    ArtworkError
        When fewer than three marks are found.
    """
    matrix, _ = _from_marks(codes, layout)
    return _outer(matrix, layout)


def flatten(
    codes: NDArray[np.uint8], layout: Layout, corners: Sequence[Point] | None = None
) -> Flat:
    """Return a photo of a card as seen straight from above, in even light.

    Parameters
    ----------
    codes : ndarray of uint8, shape (rows, cols, 3)
        The photo, sRGB.
    layout : Layout
    corners : sequence of four points, optional
        The card's corners in pixels, as `find_corners` orders them.

    Raises
    ------
    ArtworkError
        When the card cannot be found, or is too small in the photo.
    """
    if corners:
        matrix, residual = _from_corners(corners, layout), 0.0
    else:
        matrix, residual = _from_marks(codes, layout)
    px_mm = min(_scale(matrix, layout), _MOST_PX_MM)
    if px_mm < _LEAST_PX_MM:
        raise ArtworkError(
            f"The card is only {px_mm:.1f} pixels a mm in this photo; come closer "
            f"({_LEAST_PX_MM:g} are needed)."
        )
    linear = to_linear(np.arange(256) / 255).astype(np.float32)[codes]
    size = round(layout.width_mm * px_mm), round(layout.height_mm * px_mm)
    seen = cv2.warpPerspective(
        linear, matrix @ _to_mm(px_mm, layout.height_mm), size,
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE,
    )  # fmt: skip
    colours = np.asarray(seen, np.float32)
    light = (colours @ WEIGHTS).astype(np.float32)
    bare = bare_light(light, layout, px_mm)
    even = np.clip(colours * (float(np.median(bare)) / bare)[..., None], 0, 1)
    look = np.rint(255 * to_coded(even)).astype(np.uint8)
    return Flat(light / bare, look, px_mm, _outer(matrix, layout), residual)


def _to_mm(px_mm: float, height_mm: float) -> NDArray[np.float64]:
    """Return the map from pixels of the flat picture to mm on the card."""
    half = 0.5 / px_mm
    return np.array([[1 / px_mm, 0, half], [0, -1 / px_mm, height_mm - half], [0, 0, 1]])


def _outer(matrix: NDArray[np.float64], layout: Layout) -> tuple[Point, ...]:
    wide, high = layout.width_mm, layout.height_mm
    ends = np.array([[0, 0], [wide, 0], [0, high], [wide, high]], np.float64)
    seen = cv2.perspectiveTransform(ends[None], matrix)[0]
    return tuple((float(x), float(y)) for x, y in seen)


def _from_corners(corners: Sequence[Point], layout: Layout) -> NDArray[np.float64]:
    wide, high = layout.width_mm, layout.height_mm
    ends = np.array([[0, 0], [wide, 0], [0, high], [wide, high]], np.float32)
    seen = np.array(corners, np.float32)
    order = seen[[0, 1, 3, 2]]
    if seen.shape != (4, 2) or not cv2.isContourConvex(order.astype(np.float32)):
        raise ArtworkError("The four corners must make a four-sided figure.")
    return np.asarray(cv2.getPerspectiveTransform(ends, seen), np.float64)


def _from_marks(
    codes: NDArray[np.uint8], layout: Layout
) -> tuple[NDArray[np.float64], float]:
    """Return the map from mm on the card to pixels, and its residual in mm."""
    found = find_marks(codes, 4)
    if len(found) < 3:
        raise ArtworkError(
            f"{len(found)} of the four corner marks were found; click the card's corners "
            "instead, or take the photo again with the whole card in even light."
        )
    on_card = np.concatenate([_mark_corners(layout.marks[i]) for i in found])
    in_photo = np.concatenate(list(found.values()))
    matrix, _ = cv2.findHomography(on_card, in_photo, 0)
    back = cv2.perspectiveTransform(in_photo[None], np.linalg.inv(matrix))[0]
    residual = float(np.sqrt(((back - on_card) ** 2).sum(axis=1).mean()))
    return np.asarray(matrix, np.float64), residual


def _mark_corners(corner: Point) -> NDArray[np.float64]:
    """Return a mark's corners from its back left one on, clockwise."""
    x, y = corner
    far_x, far_y = x + MARK_MM, y + MARK_MM
    return np.array([[x, far_y], [far_x, far_y], [far_x, y], [x, y]])


def _scale(matrix: NDArray[np.float64], layout: Layout) -> float:
    """Return how many pixels of the photo there are to a mm in the card's middle."""
    x, y = layout.width_mm / 2, layout.height_mm / 2
    around = np.array([[[x, y], [x + 1, y], [x, y + 1]]])
    middle, right, up = cv2.perspectiveTransform(around, matrix)[0]
    return float(min(np.hypot(*(right - middle)), np.hypot(*(up - middle))))


def bare_spots(layout: Layout) -> list[tuple[float, float, float]]:
    """Return middle and side in mm of bare places: where the gaps between cells cross."""
    first, last = layout.cells[0], layout.cells[-1]
    gap = 2.0
    if layout.columns > 1:
        gap = layout.cells[1].x_mm - first.x_mm - first.width_mm
    elif layout.rows > 1:
        gap = layout.cells[layout.columns].y_mm - first.y_mm - first.height_mm
    xs = [cell.x_mm - gap / 2 for cell in layout.cells[: layout.columns]]
    ys = [cell.y_mm - gap / 2 for cell in layout.cells[:: layout.columns]]
    xs.append(last.x_mm + last.width_mm + gap / 2)
    ys.append(last.y_mm + last.height_mm + gap / 2)
    return [(x, y, gap / 2) for x in xs for y in ys]


def bare_light(
    light: NDArray[np.float32], layout: Layout, px_mm: float
) -> NDArray[np.float32]:
    """Return the luminance that bare substrate has everywhere: see `fit_lamp`.

    Fitted to the bare places between the cells.
    """
    spots = np.array(bare_spots(layout))
    flat = Flat(light, np.zeros((1, 1, 3), np.uint8), px_mm, (), 0.0)
    seen = np.array([
        float(np.median(flat.box(x - side / 2, y - side / 2, side, side)))
        for x, y, side in spots
    ])  # fmt: skip
    weights = fit_lamp(spots[:, 0] / layout.width_mm, spots[:, 1] / layout.height_mm, seen)
    fitted = lamp_over(weights, *light.shape)
    least = _FAINT * max(float(seen.max()), 1e-3)
    return np.maximum(fitted, least).astype(np.float32)
