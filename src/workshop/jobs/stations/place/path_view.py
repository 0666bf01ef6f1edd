"""The tool path, to be looked at and played: a picture whose pixels know their time."""

import io
import json
from dataclasses import dataclass

import numpy as np
from PIL import Image

from engraving.jobspec import JobSpec
from engraving.pipeline import Looked, PathMap
from engraving.place import frame_of
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.pictures.windows import Picture
from workshop.jobs.stations.outlines.facts import operation_times
from workshop.shell.numbers import finite

_MOST_PX = 2000
_RIM = 0.04


def whole_window(spec: JobSpec) -> tuple[float, float, float, float]:
    """Return left, front, width and height of all moves, in the machine's mm."""
    left, front, right, back = pipeline().estimate(spec).bounds_mm
    rim = _RIM * max(right - left, back - front, 1.0)
    return left - rim, front - rim, right - left + 2 * rim, back - front + 2 * rim


def path_facts(spec: JobSpec) -> str:
    """Return what the player needs to know, as JSON."""
    left, front, width, height = whole_window(spec)
    frame = frame_of(spec.machine)
    return json.dumps(
        {
            "left": left, "front": front, "width": width, "height": height,
            "seconds": pipeline().estimate(spec).seconds,
            "signX": frame.sign_x, "signY": frame.sign_y,
            "parts": [] if spec.fixture else operation_times(spec),
        }
    )  # fmt: skip


@dataclass(frozen=True)
class SideFacts:
    """A tool's path from the side, drawn 600 wide; lengths in mm."""

    line: str
    high: float
    board: float
    deepest: float
    width: float
    taller: float


_WIDE, _HIGH = 600.0, 90.0


def side_facts(spec: JobSpec) -> SideFacts | None:
    """Return a tool's path from the side; None of a beam."""
    found = pipeline().side_view(spec)
    if found is None:
        return None
    deepest = -float(found.lowest.min())
    board = spec.blank.thickness_mm
    scale = _HIGH / max(deepest, board, 1e-3)
    x = np.linspace(0, _WIDE, len(found.lowest))
    line = "L".join(
        f"{a:.1f} {-b * scale:.1f}" for a, b in zip(x, found.lowest, strict=True)
    )
    taller = scale * found.width_mm / _WIDE
    return SideFacts(
        f"M{line}",
        max(deepest, board) * scale,
        board * scale,
        deepest,
        found.width_mm,
        taller,
    )


def path_key(spec: JobSpec) -> str:
    """Return the key of a job's tool path."""
    return pipeline().estimate.key(spec)


def _looked(spec: JobSpec, wanted: dict[str, str]) -> Looked:
    left, front, width, height = whole_window(spec)
    try:
        x, y = finite(wanted.get("x", f"{left}")), finite(wanted.get("y", f"{front}"))
        wide, high = (
            finite(wanted.get("w", f"{width}")),
            finite(wanted.get("h", f"{height}")),
        )
        cols, rows = int(wanted.get("px", 800)), int(wanted.get("py", 600))
    except ValueError:
        return Looked(left, front, width, height, 800, 600)
    if not (0 < wide < 1e5 and 0 < high < 1e5):
        wide, high = width, height
    cols, rows = (min(max(side, 16), _MOST_PX) for side in (cols, rows))
    return Looked(x, y, wide, high, cols, rows)


def path_picture(spec: JobSpec, wanted: dict[str, str]) -> Picture:
    """Return the window of the path as `path_png` draws it."""
    return Picture(path_png(pipeline().path_map(spec, _looked(spec, wanted))), "image/png")


def path_png(found: PathMap) -> bytes:
    """Return a window of a path as PNG.

    Red and green are the high and the low byte of when a pixel is burned
    first, blue the high byte of when it is first passed over; 0 is never.
    """
    planes = (
        found.burned >> 8,
        found.burned & 255,
        np.maximum(found.passed >> 8, found.passed > 0),
    )
    pixels = np.stack(planes, axis=-1).astype(np.uint8)
    stream = io.BytesIO()
    Image.fromarray(pixels).save(stream, "PNG", compress_level=1)
    return stream.getvalue()


def path_heads(spec: JobSpec, most: int = 4000) -> str:
    """Return where the head is along the way, as JSON rows of share, x and y."""
    heads = pipeline().path_map(spec, _looked(spec, {})).heads
    step = max(len(heads) // most, 1)
    return json.dumps(np.round(heads[::step].astype(float), 4).tolist())
