"""The blank's face and its engravable area: their edges, and the dots on them."""

from functools import lru_cache

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import MultiPolygon
from shapely.affinity import scale, translate

from engraving.drawing import drawn_shapes, solid
from engraving.geometry.polygons import (
    HAIR_MM,
    QUARTER_SEGMENTS,
    ellipse,
    polygons,
    rings,
    rounded,
)
from engraving.jobspec import Area, BlankPart, DrawingPart, JobSpec, SizePart

_BITS = 6


@lru_cache(maxsize=32)
def face_area(blank: BlankPart) -> shapely.Geometry:
    """Return the blank's face in mm about its middle, y away from the operator."""
    if blank.shape in ("disc", "oval"):
        return ellipse(blank.width_mm, blank.height_mm)
    if blank.shape == "outline":
        return solid(drawn_shapes(DrawingPart(rings=blank.outline)).areas)
    wide, high = blank.width_mm / 2, blank.height_mm / 2
    plain = shapely.box(-wide, -high, wide, high)
    return rounded(plain, blank.corner_mm) if blank.shape == "rounded" else plain


def engravable_area(blank: BlankPart) -> MultiPolygon:
    """Return where the blank may be engraved, as `face_area`; it may be empty."""
    face = face_area(blank)
    if blank.area is None and blank.margin_mm < HAIR_MM:
        return polygons(face)
    if blank.area is None:
        return polygons(face.buffer(-blank.margin_mm, quad_segs=QUARTER_SEGMENTS))
    area = blank.area
    wide, high = area.width_mm, area.height_mm
    plain = shapely.box(-wide / 2, -high / 2, wide / 2, high / 2)
    shape = ellipse(wide, high) if area.shape == "oval" else plain
    return polygons(face.intersection(translate(shape, area.x_mm, area.y_mm)))


def lying_face(spec: JobSpec) -> shapely.Geometry:
    """Return the face of a job's blank about its middle, mirrored as it is burned."""
    face = face_area(spec.blank)
    return scale(face, -1, 1, origin=(0, 0)) if spec.mirrored else face


def from_picture(spec: JobSpec) -> tuple[float, float]:
    """Return in mm where the blank's middle lies from the picture's, neither turned."""
    size = spec.size
    return (size.offset_x_mm if spec.mirrored else -size.offset_x_mm), -size.offset_y_mm


def edge_bleed_mm(size: SizePart) -> float:
    """Return how far a picture that covers its blank is burned beyond the edge."""
    return size.bleed_mm if size.fit in ("cover", "stretch") else 0.0


def engravable_mask(size: SizePart, blank: BlankPart) -> NDArray[np.bool_]:
    """Return which dots lie on the blank's engravable area.

    That is its own area where it has one, else its face less the margin; with
    a bleed its face and so much beyond its edge. A dot counts by its centre.

    Returns
    -------
    ndarray of bool, shape (rows, cols)
    """
    bleed = edge_bleed_mm(size)
    if bleed:
        return _beyond(size, blank, bleed)
    face = face_mask(size, blank)
    if blank.area is not None:
        return face & _inside_area(size, blank.area)
    if blank.margin_mm < HAIR_MM:
        return face
    if blank.shape in ("rounded", "outline", "oval"):
        return face & _filled(engravable_area(blank), *_blank_mm(size))
    less = blank.margin_mm * 2
    room = blank.width_mm - less, blank.height_mm - less
    if min(room) <= 0:
        return np.zeros_like(face)
    x, y = _blank_mm(size)
    return _inside(blank.shape, x, y, *room)


def _beyond(size: SizePart, blank: BlankPart, bleed_mm: float) -> NDArray[np.bool_]:
    """Return which dots lie on the blank's face or so near beyond its edge."""
    if blank.shape == "outline":
        grown = face_area(blank).buffer(bleed_mm, quad_segs=QUARTER_SEGMENTS)
        return _filled(polygons(grown), *_blank_mm(size))
    wider = {
        "width_mm": blank.width_mm + 2 * bleed_mm,
        "height_mm": blank.height_mm + 2 * bleed_mm,
        "corner_mm": blank.corner_mm + bleed_mm,
    }
    return face_mask(size, blank.model_copy(update=wider))


def face_mask(size: SizePart, blank: BlankPart) -> NDArray[np.bool_]:
    """Return which dots lie on the blank at all, shape (rows, cols)."""
    x, y = _blank_mm(size)
    if blank.shape == "outline":
        return _filled(polygons(face_area(blank)), x, y)
    if blank.shape == "rounded":
        corner = min(blank.corner_mm, blank.width_mm / 2, blank.height_mm / 2)
        across = np.maximum(np.abs(x) - (blank.width_mm / 2 - corner), 0)
        down = np.maximum(np.abs(y) - (blank.height_mm / 2 - corner), 0)
        round_off = np.hypot(across[None, :], down[:, None]) <= corner
        return round_off & _inside("rectangle", x, y, blank.width_mm, blank.height_mm)
    return _inside(blank.shape, x, y, blank.width_mm, blank.height_mm)


def engravable_box(blank: BlankPart) -> tuple[float, float, float, float]:
    """Return x and y of the middle, width and height in mm of the engravable area.

    The middle counts from the blank's, y away from the operator.
    """
    if blank.area is not None:
        area = blank.area
        return area.x_mm, area.y_mm, area.width_mm, area.height_mm
    less = 2 * blank.margin_mm
    width, height = blank.width_mm - less, blank.height_mm - less
    return 0.0, 0.0, max(width, 1.0), max(height, 1.0)


def _blank_mm(size: SizePart) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return x and y of the dots from the blank's middle, y towards the operator."""
    x = (
        np.arange(size.cols, dtype=np.float64) + 0.5 - size.cols / 2
    ) * size.along_mm + size.offset_x_mm
    y = (
        np.arange(size.rows, dtype=np.float64) + 0.5 - size.rows / 2
    ) * size.pitch_mm - size.offset_y_mm
    return x, y


def _inside(
    shape: str,
    x: NDArray[np.float64],
    y: NDArray[np.float64],
    width: float,
    height: float,
) -> NDArray[np.bool_]:
    if shape in ("disc", "oval"):
        across = (2 * x[None, :] / width) ** 2
        return np.asarray(across + (2 * y[:, None] / height) ** 2 <= 1)
    return np.asarray((np.abs(y) <= height / 2)[:, None] & (np.abs(x) <= width / 2))


def _inside_area(size: SizePart, area: Area) -> NDArray[np.bool_]:
    x, y = _blank_mm(size)
    shape = "oval" if area.shape == "oval" else "rectangle"
    return _inside(shape, x - area.x_mm, y + area.y_mm, area.width_mm, area.height_mm)


def _filled(
    area: MultiPolygon, x: NDArray[np.float64], y: NDArray[np.float64]
) -> NDArray[np.bool_]:
    """Return the dots whose middle lies inside an area; y of the dots counts down."""
    out = np.zeros((len(y), len(x)), np.uint8)
    cell = np.array([np.ptp(axis[:2]) or 1.0 for axis in (x, y)])
    origin = np.array([x[0], y[0]])
    corners = [
        np.rint((ring * (1, -1) - origin) / cell * (1 << _BITS)).astype(np.int32)
        for ring in rings(area.geoms)
    ]
    cv2.fillPoly(out, corners, 1, cv2.LINE_8, _BITS)
    # That takes in whatever the edge touches: of those a dot counts by its middle.
    edge = np.zeros_like(out)
    cv2.polylines(edge, corners, isClosed=True, color=1, thickness=3, shift=_BITS)
    rows, cols = np.nonzero(edge)
    shapely.prepare(area)
    out[rows, cols] = shapely.contains_xy(area, x[cols], -y[rows])
    return out.astype(np.bool_)
