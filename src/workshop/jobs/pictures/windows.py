"""The table's pictures: any window of any view, keyed by all it depends on."""

import io
import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from typing import TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from engraving.artwork.mix import MIXES, ground_code, mixed
from engraving.artwork.placing import grid_to_file
from engraving.colour.hexadecimal import written
from engraving.colour.light import CODE_OF_LINEAR, LINEAR_OF_CODE
from engraving.errors import InputError
from engraving.geometry.homography import Matrix, scale_at
from engraving.geometry.shrinking import shrunk_size
from engraving.jobspec import ArtworkPart, Ground, JobSpec
from engraving.pipeline import stage_key, unless_overtaken
from engraving.pipeline.stages.ways.registry import WAYS
from engraving.place import shown_piece
from engraving.proof import (
    Place,
    TwoTone,
    Window,
    faded,
    place_on_blank,
    shown_colours,
    shown_tones,
    texture,
    textured,
)
from engraving.proof.plaster import UPPER_LEFT
from workshop.jobs.models import Artwork
from workshop.jobs.pictures.engine import LARGEST_KEPT, pipeline, stage_cache
from workshop.jobs.pictures.intake import page_size
from workshop.shell.numbers import finite

T = TypeVar("T")

VIEWS = ("source", "toned", "dots", "proof", "veil", "face")
"""What is shown of a job; each is keyed by all it depends on."""
LAMP_DEG = UPPER_LEFT
_VEIL = (165, 191, 212)

_QUALITY = 90
_MOST_PX = 4096
_MOST_DOTS = 400_000_000
_MOST_ASKED = 64

_LIGHT = np.rint(LINEAR_OF_CODE * 65535).astype(np.uint16)
_CODES = CODE_OF_LINEAR[np.arange(65536) * (len(CODE_OF_LINEAR) - 1) // 65535]

_asked: dict[int, tuple[str, Window]] = {}
"""The right-hand picture each ticket's table asked for last."""
_begun: dict[int, JobSpec] = {}
"""What each ticket's next picture was begun for last."""


@dataclass(frozen=True)
class Picture:
    """An encoded picture."""

    data: bytes
    content_type: str


def view_keys(spec: JobSpec) -> dict[str, str]:
    """Return the key of each view; it changes whenever the view would."""
    return {view: view_key(spec, view) for view in VIEWS}


def view_key(spec: JobSpec, view: str) -> str:
    """Return the key of one of `VIEWS`."""
    stages = pipeline()
    match view:
        case "source":
            return stage_key("source", *_looks(spec), stages.placed.key(spec))
        case "toned":
            return stages.wanted.key(spec)
        case "dots":
            return stage_key(stages.plan.key(spec), spec.polarity)
        case "veil":
            return stages.mask.key(spec)
        case "face":
            return stage_key("face", spec.substrate.model_dump(), *_on_blank(spec))
        case "proof":
            return stage_key(stages.proof.key(spec), *_on_blank(spec))
    raise KeyError(view)


def _on_blank(spec: JobSpec) -> tuple[float, ...]:
    """Return where on the blank the grid lies: its texture does not move along."""
    size = spec.size
    return (*size.cell_mm, size.cols, size.rows, size.offset_x_mm, size.offset_y_mm)


def _looks(spec: JobSpec) -> tuple[str | int | float, ...]:
    part = spec.artwork
    return (
        part.sha256, part.page, part.ground, part.ground_gray, spec.substrate.ground
    )  # fmt: skip


def lies_the_same(before: JobSpec, after: JobSpec) -> bool:
    """Return whether a window of the one is the same window of the other."""
    return (before.size, before.blank) == (after.size, after.blank)


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


def lamp_of(wanted: dict[str, str]) -> int:
    """Return where the light asked for comes from, in whole degrees.

    Raises
    ------
    InputError
        When it is no number.
    """
    try:
        return round((finite(wanted["lamp"]) if "lamp" in wanted else LAMP_DEG) % 360)
    except ValueError:
        raise InputError("The lamp stands at an angle in degrees.") from None


def picture(
    spec: JobSpec, view: str, window: Window, number: int = 0, lamp_deg: float = UPPER_LEFT
) -> Picture:
    """Return a window of a view; of ticket `number` it is remembered what was asked.

    A lamp lights proofs that have depth, so many degrees clockwise from the top.

    Raises
    ------
    EngravingError
        When the job cannot be computed.
    """
    if number:
        _remember(_asked, number, (view, window))
    key = stage_key("picture", view_key(spec, view), view, repr(window), lamp_deg)
    return stage_cache().get(key, lambda: _make(spec, view, window, lamp_deg))


def _remember(of: dict[int, T], number: int, found: T) -> None:
    """Note something of a ticket; what is known of the others is let go after a while."""
    of.pop(number, None)
    of[number] = found
    while len(of) > _MOST_ASKED:
        of.pop(next(iter(of)))


def looked_at(spec: JobSpec, wanted: dict[str, str], number: int) -> tuple[Picture, str]:
    """Return the window asked for of the piece that is looked at, and its view's key.

    Raises
    ------
    EngravingError
        When there is no such part of it, or it cannot be computed.
    """
    shown, view = shown_piece(spec), wanted["view"]
    window = window_of(shown, wanted)
    found = picture(shown, view, window, number, lamp_of(wanted))
    return found, view_key(shown, view)


def untoned(spec: JobSpec) -> JobSpec:
    """Return the job with its tone station passed over."""
    return spec.model_copy(update={"tone": spec.tone.model_copy(update={"on": False})})


def turned_about(spec: JobSpec) -> JobSpec:
    """Return the job with light and dark exchanged before it is marked."""
    invert = "no" if spec.inverted else "yes"
    return spec.model_copy(update={"side": spec.side.model_copy(update={"invert": invert})})


def begin(number: int, spec: JobSpec) -> None:
    """Start on the picture that the table of a ticket will ask for next.

    It is most likely the window it asked for last. Faults are left to
    whoever asks. What was begun for an earlier change stops.
    """
    last = _asked.get(number)
    if last and spec.size.cols * spec.size.rows <= LARGEST_KEPT:
        _remember(_begun, number, spec)
        _ahead().submit(_go_ahead, number, spec, *last)


def _go_ahead(number: int, spec: JobSpec, view: str, window: Window) -> None:
    with unless_overtaken(lambda: _begun.get(number) is not spec):
        picture(spec, view, window)


def begin_first(spec: JobSpec) -> None:
    """Start on what the first picture of a fresh ticket needs."""
    if spec.size.cols * spec.size.rows <= LARGEST_KEPT:
        _ahead().submit(pipeline().dots, spec)


@cache
def _ahead() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(1, "ahead")


def _make(spec: JobSpec, view: str, window: Window, lamp_deg: float) -> Picture:
    stages = pipeline()
    if view == "source":
        return encoded_jpeg(_source(spec, window))
    if view == "toned":
        return encoded_jpeg(shown_tones(stages.wanted(spec), window))
    if view == "face":
        return encoded_jpeg(face_pixels(spec, window))
    if view == "veil":
        return encoded_png(_veil(spec, window))
    if view == "dots":
        return _planned(spec, window)
    return encoded_jpeg(proof_pixels(spec, window, lamp_deg))


def _planned(spec: JobSpec, window: Window) -> Picture:
    """Return what is planned: dots near by as bits, which take an eighth of the time."""
    bits = pipeline().plan_bits(spec, window)
    if bits is not None:
        return encoded_bits(bits)
    shown = pipeline().plan(spec, window)
    return encoded_jpeg(shown) if window.shrinks else encoded_png(shown)


def proof_pixels(
    spec: JobSpec, window: Window, lamp_deg: float = UPPER_LEFT
) -> NDArray[np.uint8]:
    """Return a window of the proof as sRGB codes, shape (height, width, 3)."""
    shown = pipeline().proof(spec, window, lamp_deg)
    way = WAYS["dots" if spec.card is not None else spec.marking.way]
    grain = texture(spec.substrate, _place(spec, window))
    return textured(shown, faded(grain, way.grain))


def face_pixels(spec: JobSpec, window: Window) -> NDArray[np.uint8]:
    """Return a window of the bare substrate as sRGB codes, shape (height, width, 3)."""
    return bare_pixels(spec, _place(spec, window))


def bare_pixels(spec: JobSpec, place: Place) -> NDArray[np.uint8]:
    """Return a part of the bare substrate, counted from the blank's middle."""
    ground = shown_colours(spec.substrate)[0]
    colour = [int(ground[i : i + 2], 16) for i in (1, 3, 5)]
    bare = np.zeros((place.height_px, place.width_px, 3), np.uint8)
    bare[:] = colour
    return textured(bare, texture(spec.substrate, place))


def _place(spec: JobSpec, window: Window) -> Place:
    """Return where a window lies on the material, counted from the blank's middle."""
    return place_on_blank(spec.size, window)


def thumbnail(spec: JobSpec, longest_px: int) -> Picture:
    """Return the whole proof, small."""
    cols, rows = spec.size.cols, spec.size.rows
    return picture(spec, "proof", Window(0, 0, cols, rows, *_small_px(spec, longest_px)))


def _small_px(spec: JobSpec, longest_px: int) -> tuple[int, int]:
    """Return a small picture's size, as high for its width as the piece."""
    wide, high = spec.size.width_mm, spec.size.height_mm
    scale = longest_px / max(wide, high)
    return max(1, round(wide * scale)), max(1, round(high * scale))


def turned_source(spec: JobSpec, longest_px: int) -> Picture:
    """Return the whole picture, squared, turned and levelled but not cropped."""
    width, height = spec.artwork.level_px
    size = shrunk_size(width, height, longest_px)
    whole = spec.artwork.model_copy(update={"crop": ArtworkPart().crop})
    return encoded_jpeg(_seen(spec, grid_to_file(whole, *size), size))


def file_picture(spec: JobSpec, longest_px: int) -> Picture:
    """Return the file as it is, upright, to set corners on."""
    rgba = pipeline().likeness(spec)
    size = shrunk_size(rgba.shape[1], rgba.shape[0], longest_px)
    return encoded_jpeg(_shrunk(_on_ground(spec, rgba), size))


def sheet_picture(artwork: Artwork, page: int, longest_px: int) -> Picture:
    """Return a page of a file, small."""
    width, height = page_size(artwork, page)
    part = ArtworkPart(sha256=artwork.sha256, page=page, width_px=width, height_px=height)
    return file_picture(JobSpec(artwork=part), longest_px)


def mix_key(spec: JobSpec) -> str:
    """Return the key of the small pictures of the gray mixes."""
    return stage_key("mixes", pipeline().placed.key(spec), spec.artwork.sha256)


def mix_picture(spec: JobSpec, name: str, longest_px: int) -> Picture:
    """Return the picture in one of the named gray mixes, small.

    Raises
    ------
    InputError
        When there is no such mix.
    """
    if name not in MIXES:
        raise InputError("There is no such mix.")
    rgb = _small(spec, longest_px)
    part = spec.artwork.model_copy(update={"mix": MIXES[name], "dropped": ()})
    return encoded_jpeg(mixed(rgb, part))


def colour_at(spec: JobSpec, x: float, y: float) -> str:
    """Return the colour at a point of the file, in shares of its sides, as #rrggbb.

    The mean of five by five pixels of the likeness, so that grain does not decide.
    """
    rgba = pipeline().likeness(spec)
    height, width = rgba.shape[:2]
    column = min(int(min(max(x, 0.0), 1.0) * width), width - 1)
    row = min(int(min(max(y, 0.0), 1.0) * height), height - 1)
    part = rgba[max(row - 2, 0) : row + 3, max(column - 2, 0) : column + 3, :3]
    return written([round(float(v)) for v in part.reshape(-1, 3).mean(axis=0)])


def _small(spec: JobSpec, longest_px: int) -> NDArray[np.uint8]:
    size = _small_px(spec, min(longest_px, max(spec.size.cols, spec.size.rows)))
    return _seen(spec, grid_to_file(spec.artwork, *size), size)


def _source(spec: JobSpec, window: Window) -> NDArray[np.uint8]:
    """Return the window of the colour picture."""
    size = window.width_px, window.height_px
    matrix = grid_to_file(spec.artwork, spec.size.cols, spec.size.rows)
    zoom = np.array(
        [
            [window.cols / size[0], 0, window.left],
            [0, window.rows / size[1], window.top],
            [0, 0, 1],
        ]
    )
    return _seen(spec, matrix @ zoom, size)


def _seen(spec: JobSpec, matrix: Matrix, size: tuple[int, int]) -> NDArray[np.uint8]:
    """Return the colour picture through a map from pixels shown to pixels of the file.

    Averaged at three by three points where it shrinks; beyond the file its
    edge goes on.
    """
    whole = pipeline().likeness(spec).shape
    part = spec.artwork
    scale = np.diag([whole[1] / part.width_px, whole[0] / part.height_px, 1.0])
    shrink = scale_at(scale @ matrix, size[0] / 2, size[1] / 2)
    halvings = max(0, math.floor(math.log2(max(shrink, 1) / 2)))
    rgb = _looked_at(spec, halvings)
    scale = np.diag([rgb.shape[1] / part.width_px, rgb.shape[0] / part.height_px, 1.0])
    matrix = scale @ matrix
    shrink /= 2**halvings
    per = 2 if shrink > 1.2 else 1
    fine = np.array([[1 / per, 0, 0.5 / per], [0, 1 / per, 0.5 / per], [0, 0, 1]])
    index = np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1]])
    found = cv2.warpPerspective(
        rgb,
        index @ matrix @ fine,
        (size[0] * per, size[1] * per),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return np.asarray(cv2.resize(found, size, interpolation=cv2.INTER_AREA))


def _looked_at(spec: JobSpec, halvings: int) -> NDArray[np.uint8]:
    """Return the file's colours, halved so many times, kept for the next look."""
    key = stage_key("looked at", *_looks(spec), halvings)
    if halvings == 0:
        return stage_cache().get(key, lambda: _on_ground(spec, pipeline().likeness(spec)))
    return stage_cache().get(key, lambda: _halved(_looked_at(spec, halvings - 1)))


def _halved(rgb: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return colours at half the size, averaged in linear light of sixteen bits."""
    size = max(1, rgb.shape[1] // 2), max(1, rgb.shape[0] // 2)
    light = cv2.resize(cv2.LUT(rgb, _LIGHT), size, interpolation=cv2.INTER_AREA)
    return np.take(_CODES, np.asarray(light, np.uint16))


def _on_ground(spec: JobSpec, rgba: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Return the colours on what their transparent parts become."""
    rgb = np.ascontiguousarray(rgba[..., :3])
    share = rgba[..., 3:]
    if share.min() == 255:
        return rgb
    if spec.artwork.ground == Ground.UNBURNED:
        text = spec.substrate.ground
        ground = np.array([int(text[i : i + 2], 16) for i in (1, 3, 5)], np.float32)
    else:
        ground = np.full(3, ground_code(spec.artwork), np.float32)
    laid = ground + (rgb - ground) * (share / np.float32(255))
    return np.rint(laid).astype(np.uint8)


def _veil(spec: JobSpec, window: Window) -> NDArray[np.uint8]:
    """Return a veil over what is not burned, RGBA, hatched so that it is no tone."""
    size = window.width_px, window.height_px
    mask = pipeline().mask(spec)
    if mask is None:
        return np.zeros((size[1], size[0], 4), np.uint8)
    top, left = max(window.top, 0), max(window.left, 0)
    part = mask[top : window.top + window.rows, left : window.left + window.cols]
    shrinks = part.shape[1] > size[0] or part.shape[0] > size[1]
    way = cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR
    gone = cv2.bitwise_not(cv2.resize(np.ascontiguousarray(part), size, interpolation=way))
    stripes = np.add.outer(np.arange(size[1]) % 12, np.arange(size[0]) % 12) % 12 < 5
    strength = np.where(stripes, np.uint8(158), np.uint8(76))
    veil = np.asarray(cv2.multiply(gone, strength, scale=1 / 255))
    colour = [np.full_like(veil, code) for code in _VEIL]
    return np.asarray(cv2.merge([*colour, veil]))


def _shrunk(rgb: NDArray[np.uint8], size: tuple[int, int]) -> NDArray[np.uint8]:
    """Return a picture at another size, averaged in linear light when smaller."""
    if size[0] >= rgb.shape[1]:
        return np.asarray(cv2.resize(rgb, size, interpolation=cv2.INTER_LINEAR))
    light = cv2.LUT(rgb, LINEAR_OF_CODE)
    small = cv2.resize(light, size, interpolation=cv2.INTER_AREA)
    index = (small * (len(CODE_OF_LINEAR) - 1) + 0.5).astype(np.uint16)
    return np.take(CODE_OF_LINEAR, index)


def encoded_jpeg(pixels: NDArray[np.uint8]) -> Picture:
    """Return codes, gray or RGB, as a JPEG."""
    flags = [cv2.IMWRITE_JPEG_QUALITY, _QUALITY]
    return Picture(_encode(".jpg", pixels, flags), "image/jpeg")


def encoded_png(pixels: NDArray[np.uint8]) -> Picture:
    """Return codes, gray, RGB or RGBA, as a PNG."""
    flags = [cv2.IMWRITE_PNG_COMPRESSION, 1]
    return Picture(_encode(".png", pixels, flags), "image/png")


def encoded_bits(bits: TwoTone) -> Picture:
    """Return a picture of two colours as a PNG of a bit a pixel, which browsers draw."""
    image = Image.fromarray(bits.codes)
    image.putpalette(bits.colours.tobytes())
    stream = io.BytesIO()
    image.save(stream, "PNG", bits=1, compress_level=1)
    return Picture(stream.getvalue(), "image/png")


def _encode(kind: str, pixels: NDArray[np.uint8], flags: list[int]) -> bytes:
    swaps = {3: cv2.COLOR_RGB2BGR, 4: cv2.COLOR_RGBA2BGRA}
    bgr = cv2.cvtColor(pixels, swaps[pixels.shape[2]]) if pixels.ndim == 3 else pixels
    _, data = cv2.imencode(kind, np.ascontiguousarray(bgr), flags)
    return data.tobytes()
