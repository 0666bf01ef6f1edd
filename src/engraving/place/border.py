"""The line that is walked round all that is burned, to see where it will lie."""

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.affinity import rotate, translate

from engraving.geometry.polygons import polygons
from engraving.geometry.rotation import turned_about
from engraving.jobspec import JobSpec
from engraving.place.bed import piece_box, reach_box
from engraving.place.blank import from_picture, lying_face
from engraving.place.mount import mounted
from engraving.place.pockets import burned_box, pieces


def border_line(spec: JobSpec, box_mm: float = 0.0) -> NDArray[np.float64]:
    """Return the corners of the border, closed, shape (5, 2), in mm on the bed.

    A single piece's rectangle as it lies, turned and all; of a fixture the box
    round all pieces; of a wall the picture's part, y round the piece.

    Parameters
    ----------
    box_mm : float
        On a rotary: walk a box of this height along the whole wall instead,
        about the line the head stands over, to lay a loose rotary straight.
    """
    if spec.mount.rotary:
        return _on_a_wall(spec, box_mm)
    if spec.fixture is not None:
        box = burned_box(spec)
        turn = 0.0
    else:
        box, turn = piece_box(spec.size, spec.place), spec.place.turn_deg
    corners = [
        (box.left, box.front), (box.right, box.front), (box.right, box.back),
        (box.left, box.back), (box.left, box.front),
    ]  # fmt: skip
    return np.array([turned_about(x, y, box.middle, turn) for x, y in corners])


def blank_lines(spec: JobSpec) -> list[NDArray[np.float64]]:
    """Return the edges of the blanks as they lie on a flat bed, each closed, in mm."""
    found = []
    for piece in pieces(spec) if spec.fixture is not None else [spec]:
        middle = piece_box(piece.size, piece.place).middle
        across, up = from_picture(piece)
        face = translate(lying_face(piece), middle[0] + across, middle[1] + up)
        lying = rotate(face, piece.place.turn_deg, origin=middle)
        found += [np.array(one.exterior.coords)[:, :2] for one in polygons(lying).geoms]
    return found


def hull_line(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the tightest line round points without a dent, closed; (n, 2) in mm."""
    hull = shapely.MultiPoint(points).convex_hull
    return np.array(getattr(hull, "exterior", hull).coords)[:, :2]


def _on_a_wall(spec: JobSpec, box_mm: float) -> NDArray[np.float64]:
    lying = mounted(spec)
    box = reach_box(lying.size, spec.place)
    left, right, front, back = box.left, box.right, box.front, box.back
    if box_mm:
        middle = box.middle[0] - lying.size.offset_x_mm
        left = middle - lying.blank.width_mm / 2
        right = middle + lying.blank.width_mm / 2
        front, back = spec.place.y_mm - box_mm / 2, spec.place.y_mm + box_mm / 2
    return np.array([
        (left, front), (right, front), (right, back), (left, back), (left, front),
    ])  # fmt: skip
