"""A round piece as it is looked at: its wall rolled up again, seen from one side."""

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import ROUND, JobSpec
from engraving.pipeline import stage_key
from workshop.jobs.pictures.engine import stage_cache
from workshop.jobs.pictures.pieces import piece_key, unrolled
from workshop.jobs.pictures.windows import Picture, encoded_png

_UNROLLED_PX = 1800
_DARKEST = 0.42
"""Light left at the piece's edge, where the wall turns away."""


def wall_key(spec: JobSpec) -> str:
    """Return the key of a round piece's picture; empty of a flat one."""
    return stage_key("wall", piece_key(spec)) if spec.blank.shape in ROUND else ""


def wall_picture(spec: JobSpec, turn_deg: float, high_px: int) -> Picture:
    """Return the piece seen from the side, its seam turned to the right by an angle."""
    key = stage_key(wall_key(spec), round(turn_deg, 1), high_px)
    return stage_cache().get(key, lambda: encoded_png(_rolled(spec, turn_deg, high_px)))


def _rolled(spec: JobSpec, turn_deg: float, high_px: int) -> NDArray[np.uint8]:
    """Return RGBA codes: each row as wide as the wall is there, lit from the front."""
    flat = unrolled(spec, _UNROLLED_PX)[..., :3]
    rows, cols = flat.shape[:2]
    top, foot = _radii(spec)
    scale = high_px / spec.blank.height_mm
    half = max(top, foot) * scale
    x = (np.arange(2 * int(np.ceil(half)) + 2) + 0.5 - np.ceil(half) - 1)[None, :]
    down = (np.arange(high_px) + 0.5)[:, None] / high_px
    radius = (top + (foot - top) * down) * scale
    across = np.clip(x / radius, -1, 1)
    angle = np.arcsin(across) + np.radians(turn_deg)
    # The unrolled wall begins and ends at the seam; its middle looks at us at 0°.
    u = (((angle / (2 * np.pi) + 0.5) % 1.0) * cols - 0.5).astype(np.float32)
    v = np.broadcast_to(down * rows - 0.5, u.shape).astype(np.float32)
    around = np.concatenate([flat, flat[:, :2]], axis=1)
    seen = np.asarray(
        cv2.remap(around, u, v, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    )
    light = _DARKEST + (1 - _DARKEST) * np.sqrt(1 - across**2)
    out = np.zeros((*u.shape, 4), np.uint8)
    out[..., :3] = np.rint(seen * light[..., None])
    out[..., 3] = np.rint(255 * np.clip(radius - np.abs(x) + 0.5, 0, 1))
    return out


def _radii(spec: JobSpec) -> tuple[float, float]:
    """Return the wall's radius at its top and at its foot, in mm."""
    blank = spec.blank
    foot = blank.foot_mm if blank.shape == "taper" and blank.foot_mm else blank.diameter_mm
    return blank.diameter_mm / 2, foot / 2
