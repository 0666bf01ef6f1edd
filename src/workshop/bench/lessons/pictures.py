"""Pictures of what a piece taught: squared and evenly lit, and where it differs."""

from pathlib import Path

import cv2
import numpy as np
from django.conf import settings
from numpy.typing import NDArray
from PIL import Image

from workshop.bench.models import Run

SCALE = 15.0
"""So many L* lighter or darker are shown in the fullest colour."""
_LIGHTER, _DARKER, _SAME = (47, 111, 150), (185, 56, 14), (246, 240, 226)
_NOTHING = (206, 198, 184)
_LONGEST_PX = 900
KINDS = ("flat", "off")


def picture_path(run: Run, kind: str) -> Path:
    """Return where a picture of a burn's lesson lies: ``flat`` or ``off``."""
    return Path(settings.MEDIA_ROOT) / "pieces" / f"{run.photo}-{run.pk}-{kind}.png"


def put(run: Run, look: NDArray[np.uint8], off: NDArray[np.uint8]) -> None:
    """Keep both pictures, the difference as large as the piece is shown."""
    high, wide = look.shape[:2]
    large = cv2.resize(off, (wide, high), interpolation=cv2.INTER_NEAREST)
    for kind, picture in zip(KINDS, (look, large), strict=True):
        image = Image.fromarray(np.asarray(picture, np.uint8))
        image.thumbnail((_LONGEST_PX, _LONGEST_PX))
        image.save(picture_path(run, kind), "PNG")


def difference_picture(off: NDArray[np.float32]) -> NDArray[np.uint8]:
    """Return differences in L* as colours: blue lighter, ember darker, gray unknown."""
    share = np.clip(off / SCALE, -1, 1)
    ends = np.where((share > 0)[..., None], np.array(_LIGHTER), np.array(_DARKER))
    mixed = np.array(_SAME) + (ends - np.array(_SAME)) * np.abs(share)[..., None]
    known = np.isfinite(off)[..., None]
    return np.where(known, np.rint(np.nan_to_num(mixed)), np.array(_NOTHING)).astype(
        np.uint8
    )
