"""Pictures of a file's burn map: by itself, and as it lies on the bed."""

import io

import cv2
import numpy as np
from PIL import Image

from engraving.jobspec import MachinePart
from engraving.pipeline import Looked
from engraving.pipeline.file_path import burn_map
from engraving.place import frame_of
from workshop.bench.files.facts import Placed, opener, picture_key, placed
from workshop.jobs.models import GcodeFile
from workshop.jobs.pictures.engine import stage_cache

_LONGEST_PX = 900
_RIM = 0.03
_PAPER, _INK, _BED = (252, 248, 240), (41, 35, 30), (67, 60, 54)
_BRIGHT = 99.0


def picture(file: GcodeFile, part: MachinePart, *, bed: bool) -> bytes:
    """Return a burn map as PNG: of what is burned, or of the whole bed.

    Raises
    ------
    EngravingError
        When the file cannot be read.
    """
    key = f"{picture_key(file, part)} {'bed' if bed else 'own'}"
    return stage_cache().get(key, lambda: _drawn(file, part, bed=bed))


def _drawn(file: GcodeFile, part: MachinePart, *, bed: bool) -> bytes:
    lies = placed(file, part)
    looked = _window(lies, part, bed=bed)
    energy = burn_map(opener(file), part, lies.placing, looked)
    frame = frame_of(part)
    energy = energy[:: frame.sign_y, :: frame.sign_x]
    # A line is as wide as the spot; drawn thinner, rows would beat with the pixels.
    wide = max(part.spot_mm * looked.cols / looked.width / 4, 0.6)
    energy = np.asarray(cv2.GaussianBlur(np.ascontiguousarray(energy), (0, 0), wide))
    lit = energy[energy > 0]
    top = float(np.percentile(lit, _BRIGHT)) if lit.size else 1.0
    share = np.clip(energy / max(top, 1e-12), 0, 1)[..., None]
    ground, ink = (
        (np.array(_BED), np.array((255, 132, 80)))
        if bed
        else (np.array(_PAPER), np.array(_INK))
    )
    codes = np.rint(ground + (ink - ground) * share).astype(np.uint8)
    stream = io.BytesIO()
    Image.fromarray(codes).save(stream, "PNG", compress_level=4)
    return stream.getvalue()


def _window(lies: Placed, part: MachinePart, *, bed: bool) -> Looked:
    """Return the window of the machine's plane that a box of the bed is."""
    left, front, right, back = (
        (0.0, 0.0, part.bed_width_mm, part.bed_height_mm) if bed else lies.burned
    )
    rim = 0.0 if bed else max(_RIM * max(right - left, back - front), 0.5)
    left, front, right, back = left - rim, front - rim, right + rim, back + rim
    frame = frame_of(part)
    ends = frame.to_machine(left, front), frame.to_machine(right, back)
    wide, high = right - left, back - front
    scale = _LONGEST_PX / max(wide, high)
    return Looked(
        min(x for x, _ in ends), min(y for _, y in ends), wide, high,
        max(round(wide * scale), 1), max(round(high * scale), 1),
    )  # fmt: skip
