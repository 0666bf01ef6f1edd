"""A picture on a tapered wall, drawn so that it looks straight on the piece.

The piece turns by equal angles, so a row of the grid is stretched where the
wall is wide and squeezed where it is narrow, by D(s)/D̄. The picture is
squeezed and stretched the other way beforehand, about its middle.
"""

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.artwork.light import to_coded, to_linear
from engraving.spec import JobSpec


def on_a_cone(spec: JobSpec) -> bool:
    """Whether a job is turned on a tapered wall."""
    blank = spec.blank
    return spec.mount.rotary and blank.shape == "taper" and blank.foot_mm > 0


def cone_key(spec: JobSpec) -> tuple[float, ...] | None:
    """Return what the drawing depends on; None where nothing is drawn otherwise."""
    if not on_a_cone(spec):
        return None
    blank = spec.blank
    return blank.diameter_mm, blank.foot_mm, blank.height_mm, spec.size.offset_y_mm


def widths_along(spec: JobSpec) -> NDArray[np.float64]:
    """Return for each row how many times wider the wall is than it is on the whole."""
    size, blank = spec.size, spec.blank
    down = blank.height_mm / 2 - size.offset_y_mm - size.height_mm / 2
    at = down + (np.arange(size.rows) + 0.5) * size.pitch_mm
    across = blank.diameter_mm + (blank.foot_mm - blank.diameter_mm) * at / blank.height_mm
    return np.asarray(across / ((blank.diameter_mm + blank.foot_mm) / 2), np.float64)


def drawn_on_cone(
    spec: JobSpec, codes: NDArray[np.uint8], *, fill: int, sharp: bool = False
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
    wide = widths_along(spec)[:rows, None].astype(np.float32)
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
