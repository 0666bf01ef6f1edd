"""A picture on a tapered wall, drawn so that it looks straight on the piece.

The piece turns by equal angles, so a row of the grid is stretched where the
wall is wide and squeezed where it is narrow, by D(s)/D̄. The picture is
squeezed and stretched the other way beforehand, about its middle.
"""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.colour.light import to_coded, to_linear
from engraving.jobspec import JobSpec


@dataclass(frozen=True)
class Cone:
    """A tapered wall, and where the picture lies on it; mm.

    Attributes
    ----------
    top_mm, foot_mm, height_mm : float
        Both diameters, and how high it is.
    down_mm : float
        From the wall's upper edge to the picture's.
    pitch_mm : float
    """

    top_mm: float
    foot_mm: float
    height_mm: float
    down_mm: float
    pitch_mm: float


def cone_of(spec: JobSpec) -> Cone | None:
    """Return the tapered wall that a job is turned on; None where it is on none."""
    blank, size = spec.blank, spec.size
    if not (spec.mount.rotary and blank.shape == "taper" and blank.foot_mm > 0):
        return None
    down = blank.height_mm / 2 - size.offset_y_mm - size.height_mm / 2
    return Cone(blank.diameter_mm, blank.foot_mm, blank.height_mm, down, size.pitch_mm)


def widths_along(cone: Cone, rows: int) -> NDArray[np.float64]:
    """Return for each row how many times wider the wall is than it is on the whole."""
    at = cone.down_mm + (np.arange(rows) + 0.5) * cone.pitch_mm
    across = cone.top_mm + (cone.foot_mm - cone.top_mm) * at / cone.height_mm
    return np.asarray(across / ((cone.top_mm + cone.foot_mm) / 2), np.float64)


def drawn_on_cone(
    cone: Cone, codes: NDArray[np.uint8], *, fill: int, sharp: bool = False
) -> NDArray[np.uint8]:
    """Return codes on the grid so that they look straight on the tapered wall.

    Parameters
    ----------
    codes : ndarray of uint8, shape (rows, cols)
    fill : int
        What lies beyond the picture.
    sharp : bool
        Take the nearest value instead of mixing light; for masks.
    """
    rows, cols = codes.shape
    middle = (cols - 1) / 2
    wide = widths_along(cone, rows)[:, None].astype(np.float32)
    across = (np.arange(cols, dtype=np.float32) - middle)[None, :] * wide + middle
    up = np.broadcast_to(np.arange(rows, dtype=np.float32)[:, None], (rows, cols))
    if sharp:
        return _looked_up(codes, across, up, cv2.INTER_NEAREST, float(fill))
    light = to_linear(np.arange(256) / 255).astype(np.float32)
    seen = _looked_up(light[codes], across, up, cv2.INTER_CUBIC, float(light[fill]))
    return np.rint(255 * to_coded(np.clip(seen, 0, 1))).astype(np.uint8)


def _looked_up(
    plane: NDArray[Any], across: NDArray[np.float32], up: NDArray[np.float32], way: int,
    fill: float,
) -> NDArray[Any]:  # fmt: skip
    seen = cv2.remap(
        plane, across, np.ascontiguousarray(up), way, borderMode=cv2.BORDER_CONSTANT,
        borderValue=fill,
    )  # fmt: skip
    return np.asarray(seen)
