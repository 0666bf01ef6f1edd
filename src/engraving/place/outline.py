"""A blank's free outline from an SVG drawing."""

import math

from engraving.drawing import JOIN_MM, joined, read_svg_paths
from engraving.errors import ArtworkError

_MOST_RINGS = 200

Rings = tuple[tuple[tuple[float, float], ...], ...]


def read_outline(data: bytes) -> tuple[Rings, float, float]:
    """Return the closed shapes of a drawing, centred, and its width and height.

    Parameters
    ----------
    data : bytes
        An SVG file; without units its numbers are CSS pixels of 1/96 in.

    Returns
    -------
    rings : tuple
        Points in mm from the middle, y towards the operator.
    width_mm, height_mm : float

    Raises
    ------
    ArtworkError
        When it is no drawing, holds anything but shapes, or no closed shape.
    """
    paths, _ = joined(read_svg_paths(data).paths, JOIN_MM)
    rings = [(one.points * (1, -1)).tolist() for one in paths if one.closed]
    if not rings:
        raise ArtworkError("The drawing has no closed shape; draw the blank's edge as one.")
    return _centred(rings)


def _centred(rings: list[list[tuple[float, float]]]) -> tuple[Rings, float, float]:
    xs = [x for ring in rings for x, _ in ring]
    ys = [y for ring in rings for _, y in ring]
    if not all(math.isfinite(value) for value in xs + ys):
        raise ArtworkError("The drawing's numbers are not finite; save it again.")
    if len(rings) > _MOST_RINGS:
        raise ArtworkError(f"The drawing has {len(rings)} closed shapes; a blank has few.")
    width, height = max(xs) - min(xs), max(ys) - min(ys)
    if not (0.1 <= width <= 3000 and 0.1 <= height <= 3000):
        raise ArtworkError(
            f"The drawing is {width:.2f} × {height:.2f} mm; "
            "give its width and height in mm."
        )
    cx, cy = (max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2
    moved = tuple(
        tuple((round(x - cx, 4), round(y - cy, 4)) for x, y in ring) for ring in rings
    )
    return moved, width, height
