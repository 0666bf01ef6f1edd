"""The table's pictures: any window of any view, keyed by all it depends on."""

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.artwork import cut_out
from engraving.artwork.light import CODE_OF_LINEAR, LINEAR_OF_CODE
from engraving.artwork.reading import colour_proxy
from engraving.errors import InputError
from engraving.pipeline import stage_key
from engraving.proof import Window, dot_palette, shown_dots, shown_marks, shown_tones
from engraving.spec import ArtworkPart, JobSpec
from workshop.jobs.services.engine import LARGEST_KEPT, pipeline, stage_cache
from workshop.jobs.services.store import artwork_path

VIEWS = ("source", "toned", "dots", "proof")

_PROXY_PX = 4096
_QUALITY = 90
_MOST_PX = 4096
_MOST_DOTS = 400_000_000
_MOST_ASKED = 64

_asked: dict[int, tuple[str, Window]] = {}
"""The right-hand picture each ticket's table asked for last."""


@dataclass(frozen=True)
class Picture:
    """An encoded picture."""

    data: bytes
    content_type: str


def view_keys(spec: JobSpec) -> dict[str, str]:
    """Return the key of each view; it changes whenever the view would."""
    stages = pipeline()
    return {
        "source": stage_key("source", stages.grid_key(spec)),
        "toned": stages.tone_key(spec),
        "dots": stage_key(stages.dots_key(spec), spec.substrate.polarity),
        "proof": stages.proof_key(spec),
    }


def window_of(spec: JobSpec, wanted: dict[str, str]) -> Window:
    """Return the window asked for, held inside the grid.

    Raises
    ------
    InputError
        When a number is missing or senseless.
    """
    names = ("left", "top", "cols", "rows", "w", "h")
    try:
        left, top, cols, rows, width, height = (int(wanted[name]) for name in names)
    except (KeyError, ValueError):
        raise InputError("A picture needs left, top, cols, rows, w and h.") from None
    fits = (
        0 < cols * rows <= _MOST_DOTS and 0 < width <= _MOST_PX and 0 < height <= _MOST_PX
    )
    near = abs(left) <= 2 * spec.size.cols + 4096 and abs(top) <= 2 * spec.size.rows + 4096
    if not (fits and near and cols > 0 and rows > 0):
        raise InputError("There is no such part of the picture.")
    return Window(left, top, cols, rows, min(width, 8 * cols), min(height, 8 * rows))


def picture(spec: JobSpec, view: str, window: Window, number: int = 0) -> Picture:
    """Return a window of a view; of ticket `number` it is remembered what was asked.

    Raises
    ------
    EngravingError
        When the job cannot be computed.
    """
    if number:
        _asked.pop(number, None)
        _asked[number] = (view, window)
        while len(_asked) > _MOST_ASKED:
            _asked.pop(next(iter(_asked)))
    key = stage_key("picture", view_keys(spec)[view], view, repr(window))
    return stage_cache().get(key, lambda: _make(spec, view, window))


def begin(number: int, spec: JobSpec) -> None:
    """Start on the picture that the table of a ticket will ask for next.

    It is most likely the window it asked for last. Faults are left to
    whoever asks.
    """
    last = _asked.get(number)
    if last:
        _ahead().submit(picture, spec, *last)


@cache
def _ahead() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(1, "ahead")


def _make(spec: JobSpec, view: str, window: Window) -> Picture:
    stages = pipeline()
    if view == "source":
        return _jpeg(_source(spec, window))
    if view == "toned":
        return _jpeg(shown_tones(stages.toned(spec), window))
    if view == "dots":
        shown = shown_dots(stages.dots(spec), window, dot_palette(spec.substrate.polarity))
        return _jpeg(shown) if window.shrinks else _png(shown)
    spot, palette = stages.spot(spec), stages.palette(spec)
    plane = stages.marks(spec) if _kept_whole(spec, window) else None
    return _jpeg(shown_marks(stages.dots(spec), window, spot, palette, plane))


def _kept_whole(spec: JobSpec, window: Window) -> bool:
    """Whether the marks of the whole grid are worth keeping for this window."""
    cols, rows = spec.size.cols, spec.size.rows
    inside = window.left >= 0 and window.top >= 0
    inside = (
        inside and window.left + window.cols <= cols and window.top + window.rows <= rows
    )
    return inside and cols * rows <= LARGEST_KEPT


def thumbnail(spec: JobSpec, longest_px: int) -> Picture:
    """Return the whole proof, small."""
    cols, rows = spec.size.cols, spec.size.rows
    scale = longest_px / max(cols, rows)
    size = max(1, round(cols * scale)), max(1, round(rows * scale))
    return picture(spec, "proof", Window(0, 0, cols, rows, *size))


def turned_source(spec: JobSpec, longest_px: int) -> Picture:
    """Return the whole picture, turned and mirrored but not cropped."""
    whole = spec.artwork.model_copy(update={"crop": ArtworkPart().crop})
    rgb = cut_out(_proxy(spec), whole)
    scale = min(longest_px / max(rgb.shape[:2]), 1.0)
    size = max(1, round(rgb.shape[1] * scale)), max(1, round(rgb.shape[0] * scale))
    return _jpeg(_shrunk(np.ascontiguousarray(rgb), size))


def _proxy(spec: JobSpec) -> NDArray[np.uint8]:
    sha = spec.artwork.sha256
    return stage_cache().get(
        stage_key("proxy", sha),
        lambda: np.array(colour_proxy(artwork_path(sha), _PROXY_PX)),
    )


def _source(spec: JobSpec, window: Window) -> NDArray[np.uint8]:
    """Return the window of the colour picture; outside it is white."""
    rgb = cut_out(_proxy(spec), spec.artwork)
    height, width = rgb.shape[:2]
    across, down = width / spec.size.cols, height / spec.size.rows
    x0, x1 = window.left * across, (window.left + window.cols) * across
    y0, y1 = window.top * down, (window.top + window.rows) * down
    left, right = max(int(x0), 0), min(int(np.ceil(x1)), width)
    top, bottom = max(int(y0), 0), min(int(np.ceil(y1)), height)
    part = np.ascontiguousarray(rgb[top:bottom, left:right])
    return _shrunk(part, (window.width_px, window.height_px))


def _shrunk(rgb: NDArray[np.uint8], size: tuple[int, int]) -> NDArray[np.uint8]:
    """Return a picture at another size, averaged in linear light when smaller."""
    if size[0] >= rgb.shape[1]:
        return np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_LINEAR))
    light = cv2.LUT(rgb, LINEAR_OF_CODE)
    small = cv2.resize(light, size, interpolation=cv2.INTER_AREA)
    index = (small * (len(CODE_OF_LINEAR) - 1) + 0.5).astype(np.uint16)
    return np.take(CODE_OF_LINEAR, index)


def _jpeg(pixels: NDArray[np.uint8]) -> Picture:
    flags = [cv2.IMWRITE_JPEG_QUALITY, _QUALITY]
    return Picture(_encode(".jpg", pixels, flags), "image/jpeg")


def _png(pixels: NDArray[np.uint8]) -> Picture:
    flags = [cv2.IMWRITE_PNG_COMPRESSION, 1]
    return Picture(_encode(".png", pixels, flags), "image/png")


def _encode(kind: str, pixels: NDArray[np.uint8], flags: list[int]) -> bytes:
    bgr = pixels[..., ::-1] if pixels.ndim == 3 else pixels
    _, data = cv2.imencode(kind, np.ascontiguousarray(bgr), flags)
    return data.tobytes()
