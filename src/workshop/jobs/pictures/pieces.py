"""The finished piece, small: the proof on its blank, cut to the blank's shape."""

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.jobspec import COARSEST_PITCH_MM, FINEST_PITCH_MM, JobSpec, SizePart
from engraving.pipeline import stage_key
from engraving.place import face_mask
from engraving.proof import Place, Window
from workshop.jobs.pictures.engine import pipeline, stage_cache
from workshop.jobs.pictures.windows import Picture, bare_pixels, encoded_png, proof_pixels

_SMOOTH = 2


def piece_key(spec: JobSpec) -> str:
    """Return the key of a piece's picture."""
    blank, size = spec.blank.model_dump(), spec.size.model_dump()
    return stage_key("piece", pipeline().proof.key(spec), blank, size)


def piece_picture(spec: JobSpec, longest_px: int) -> Picture:
    """Return the piece as it is looked at, transparent beyond its edge."""
    key = stage_key(piece_key(spec), longest_px)
    return stage_cache().get(key, lambda: encoded_png(unrolled(spec, longest_px)))


def unrolled(spec: JobSpec, longest_px: int) -> NDArray[np.uint8]:
    """Return the piece as RGBA codes; of a round one its wall, unrolled."""
    blank, size = spec.blank, spec.size
    scale = longest_px / max(blank.width_mm, blank.height_mm)
    width = max(1, round(blank.width_mm * scale))
    height = max(1, round(blank.height_mm * scale))
    middle = blank.width_mm / 2, blank.height_mm / 2
    face = Place(-middle[0], -middle[1], blank.width_mm, blank.height_mm, width, height)
    out = np.zeros((height, width, 4), np.uint8)
    out[..., :3] = bare_pixels(spec, face)
    out[..., 3] = _face(spec, width, height)
    wide, high = max(1, round(size.width_mm * scale)), max(1, round(size.height_mm * scale))
    left = round(width / 2 + size.offset_x_mm * scale - wide / 2)
    top = round(height / 2 - size.offset_y_mm * scale - high / 2)
    _lay(out, _burned(spec, wide, high), left, top)
    return out


def _burned(spec: JobSpec, width: int, height: int) -> NDArray[np.uint8]:
    cols, rows = spec.size.cols, spec.size.rows
    window = Window(0, 0, cols, rows, min(width, cols), min(height, rows))
    found = proof_pixels(spec, window)
    return np.asarray(cv2.resize(found, (width, height), interpolation=cv2.INTER_AREA))


def _lay(out: NDArray[np.uint8], picture: NDArray[np.uint8], left: int, top: int) -> None:
    """Lay a picture over another where both are."""
    height, width = out.shape[:2]
    x0, y0 = max(left, 0), max(top, 0)
    x1, y1 = min(left + picture.shape[1], width), min(top + picture.shape[0], height)
    if x0 < x1 and y0 < y1:
        out[y0:y1, x0:x1, :3] = picture[y0 - top : y1 - top, x0 - left : x1 - left]


def _face(spec: JobSpec, width: int, height: int) -> NDArray[np.uint8]:
    """Return the blank's face as opacity, its edge smooth."""
    blank = spec.blank
    wanted = max(blank.width_mm / width, blank.height_mm / height) / _SMOOTH
    pitch = min(max(wanted, FINEST_PITCH_MM), COARSEST_PITCH_MM)
    fine = SizePart(width_mm=blank.width_mm, height_mm=blank.height_mm, pitch_mm=pitch)
    face = face_mask(fine, blank).astype(np.uint8) * 255
    return np.asarray(cv2.resize(face, (width, height), interpolation=cv2.INTER_AREA))
