"""What the stand-in camera is asked to take: a burned card, or the whole bed."""

import zlib
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from standins.camera import (
    Surface,
    View,
    hidden_camera,
    hidden_surface,
    lay_blanks,
    photograph,
    photograph_bed,
)
from standins.controller.machine import Machine
from standins.controller.removal import taken_mm_a_j

_LARGEST_PHOTO_MM2 = 160_000.0
_LARGEST_BED_MM = 3000.0
_MOST_BLANKS = 60
_LONGEST_PX = 3600.0
_SHADE = 0.35
"""Share of the light that a mm of depth takes away at a well's ground."""


def card_picture(machine: Machine, wanted: dict[str, Any]) -> bytes:
    """Return a PNG of a rectangle of the bed, as the operator sees it.

    ``left``, ``front``, ``width`` and ``height`` in mm along axes that ``runs``
    (1 or −1 each) turns to the right and away; ``ground`` and ``mark`` as
    #rrggbb; ``power_w`` and ``spot_mm`` as they are said to be; ``material``
    decides how it really answers.
    """
    strokes = _seen_strokes(machine, wanted)
    size = float(wanted["width"]), float(wanted["height"])
    if not 0 < size[0] * size[1] <= _LARGEST_PHOTO_MM2:
        raise ValueError
    seed = _seed(wanted["material"])
    view = View(px_mm=min(30.0, _LONGEST_PX / max(size)), seed=seed + len(strokes))
    left, front = float(wanted["left"]), float(wanted["front"])
    taken = photograph(strokes, _surface(wanted), left, front, size, view)
    return _png(taken)


def bed_picture(machine: Machine, wanted: dict[str, Any]) -> bytes:
    """Return a PNG of the whole bed, from the camera that hangs over it.

    ``left``, ``front``, ``width``, ``height`` and ``runs`` as for a card, here
    of the bed; ``camera`` decides how it hangs and how its lens bends. With
    ``ground`` a card covers the bed, and what was burned shows on it. Else
    ``blanks`` (``shape``, ``width``, ``height``, ``ground`` each) lie
    somewhere, as ``laid`` decides.
    """
    bed = float(wanted["width"]), float(wanted["height"])
    if not 0 < min(bed) <= max(bed) <= _LARGEST_BED_MM:
        raise ValueError
    camera = hidden_camera(_seed(wanted["camera"]))
    if "ground" in wanted:
        strokes = _seen_strokes(machine, wanted)
        strokes[:, :4] -= [float(wanted["left"]), float(wanted["front"])] * 2
        return _png(photograph_bed(strokes, _surface(wanted), bed, [], camera))
    pieces = [
        (
            str(one["shape"]),
            float(one["width"]),
            float(one["height"]),
            _linear(one["ground"]),
        )
        for one in wanted["blanks"][:_MOST_BLANKS]
    ]
    laid = lay_blanks(pieces, bed, _seed(wanted["laid"]))
    return _png(photograph_bed(np.zeros((0, 6)), None, bed, laid, camera))


def _seed(text: Any) -> int:
    return zlib.crc32(str(text).encode())


def _surface(wanted: dict[str, Any]) -> Surface:
    power, spot = float(wanted["power_w"]), float(wanted["spot_mm"])
    ground, mark = _linear(wanted["ground"]), _linear(wanted["mark"])
    name = wanted["material"]
    surface = hidden_surface(ground, mark, power, spot, _seed(name))
    return replace(surface, shade=_SHADE * taken_mm_a_j(str(name)))


def _seen_strokes(machine: Machine, wanted: dict[str, Any]) -> NDArray[np.float64]:
    """Return what was burned along axes that run to the right and away."""
    strokes = machine.strokes().copy()
    strokes[:, :4] *= np.array([float(way) for way in wanted["runs"]] * 2)
    return strokes


def _png(picture: NDArray[np.uint8]) -> bytes:
    done, data = cv2.imencode(".png", picture[:, :, ::-1])
    if not done:
        raise ValueError
    return bytes(data.tobytes())


def _linear(colour: str) -> tuple[float, float, float]:
    codes = np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255
    light = np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4)
    red, green, blue = light.tolist()
    return red, green, blue
