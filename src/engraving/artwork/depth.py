"""Depth pictures: white is near, black is far; read without a thought of colour.

A depth is what a sample says, not how light it looks: no profile, no gamma and no light
stand between. Sixteen bits and decimal numbers stay what they are; samples that are
no numbers, and what is transparent, have no depth.
"""

import io
import warnings
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image, ImageOps

from engraving.artwork.deep import deep_page
from engraving.artwork.grid import cut_out, place_share
from engraving.artwork.placing import grid_to_file
from engraving.artwork.reading import DECODER_FAULTS, MOST_PIXELS, Artwork, read_artwork
from engraving.artwork.upright import turned
from engraving.artwork.warp import warp
from engraving.errors import ArtworkError
from engraving.jobspec import ArtworkPart

Near = NDArray[np.float32]

_FULL = 65535
_TIFF = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")


@dataclass(frozen=True)
class DepthPicture:
    """A depth picture as read.

    Attributes
    ----------
    near : ndarray of float32, shape (height, width)
        1 nearest (white), 0 farthest (black), NaN without depth; row 0 the top.
    bits : int
        Of a sample.
    notes : tuple of str
        How the file's numbers were taken, one sentence each.
    """

    near: Near
    bits: int
    notes: tuple[str, ...] = ()


def read_depth(data: bytes, page: int = 0) -> DepthPicture:
    """Read a page of a picture as depth.

    Raises
    ------
    ArtworkError
        When it is no picture that can be read, or holds no depth at all.
    """
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            found = _decimal(data, page) or _whole(data, page)
        except ArtworkError:
            raise
        except DECODER_FAULTS as error:
            raise ArtworkError(
                f"The depth picture is damaged or cut short ({error}); export it again."
            ) from None
    return found


def depth_of(artwork: Artwork) -> DepthPicture:
    """Return a picture's tones as depth, where only they are at hand."""
    gray = artwork.gray
    full = 255 if gray.dtype == np.uint8 else _FULL
    near = (gray / np.float32(full)).astype(np.float32)
    if artwork.alpha is not None:
        near[artwork.alpha < 128] = np.nan
    return DepthPicture(near, 8 if full == 255 else 16)


def _decimal(data: bytes, page: int) -> DepthPicture | None:
    """Return a TIFF of decimal numbers; None where it is none."""
    if data[:4] not in _TIFF:
        return None
    with tifffile.TiffFile(io.BytesIO(data)) as file:
        if not 0 <= page < len(file.pages):
            return None
        found = file.pages[page].aspage()
        if found.imagewidth * found.imagelength > MOST_PIXELS or found.imagedepth > 1:
            return None
        if found.dtype is None or found.dtype.kind != "f" or found.samplesperpixel > 1:
            return None
        values = found.asarray().reshape(found.imagelength, found.imagewidth)
        orientation = int(found.tags[274].value) if 274 in found.tags else 1
    values = turned(values.astype(np.float64), orientation)
    known = np.isfinite(values)
    if not known.any():
        raise ArtworkError("No sample of this depth picture is a number.")
    low, high = float(values[known].min()), float(values[known].max())
    if low >= 0 and high <= 1:
        low, high = 0.0, 1.0
    note = f"Decimal depths were taken from {low:g} (far) to {high:g} (near)."
    near = (values - low) / max(high - low, 1e-300)
    gone = int((~known).sum())
    notes = (note, f"{gone} samples are no numbers; they have no depth.") if gone else (
        note,
    )  # fmt: skip
    near[~known] = np.nan
    return DepthPicture(near.astype(np.float32), 32, notes)


def _whole(data: bytes, page: int) -> DepthPicture:
    """Return a picture of whole numbers, as its file has them."""
    deep = deep_page(data, page, MOST_PIXELS)
    if deep is not None:
        samples, alpha, bits = deep.samples, deep.alpha, 16
        if samples.ndim == 3:
            samples = samples[..., 0] if _gray(samples) else _luma(samples)
        near = samples.astype(np.float32) / np.float32(_FULL)
    else:
        read_artwork(data, page)  # holds it against the limits, and says what is wrong
        near, alpha, bits = _eight(data, page)
    if alpha is not None:
        near[alpha < 128] = np.nan
    if np.isnan(near).all():
        raise ArtworkError("All of this depth picture is transparent.")
    return DepthPicture(near, bits)


def _eight(data: bytes, page: int) -> tuple[Near, NDArray[np.uint8] | None, int]:
    with Image.open(io.BytesIO(data)) as image:
        image.seek(page) if page else None
        upright = ImageOps.exif_transpose(image)
        seen = upright.has_transparency_data
        alpha = np.asarray(upright.convert("RGBA"))[..., 3] if seen else None
        if upright.mode in ("I;16", "I;16B", "I"):
            samples = np.asarray(upright).astype(np.int64).clip(0, _FULL)
            return (samples / np.float32(_FULL)).astype(np.float32), alpha, 16
        colours = np.asarray(upright.convert("RGB"))
    samples = colours[..., 0] if _gray(colours) else _luma(colours)
    return samples.astype(np.float32) / np.float32(255), alpha, 8


def _gray(colours: NDArray[Any]) -> bool:
    same = (colours[..., 0] == colours[..., 1]) & (colours[..., 1] == colours[..., 2])
    return bool(same.all())


def _luma(colours: NDArray[Any]) -> NDArray[Any]:
    """Return codes weighed as ITU-R BT.709 does, without their light."""
    return np.asarray(colours[..., :3] @ np.array([0.2126, 0.7152, 0.0722], np.float32))


def place_depth(near: Near, part: ArtworkPart, cols: int, rows: int) -> Near:
    """Return a depth picture with one sample per dot, NaN without depth.

    Averaged where there are more samples than dots, straight between them where there
    are fewer: nothing swings beyond its neighbours. Samples without depth do not count;
    where most of a dot has none, neither has it. Untouched where the window already
    has that size.
    """
    known = np.isfinite(near)
    whole = bool(known.all())
    flat = near if whole else np.where(known, near, np.float32(0))
    if not part.is_upright:
        return _tilted(flat, known, part, (cols, rows))
    window, seen = cut_out(flat, part), cut_out(known, part)
    if window.shape == (rows, cols):
        return np.where(seen, window, np.float32(np.nan))
    shrinks = window.shape[1] > cols or window.shape[0] > rows
    way = cv2.INTER_AREA if shrinks else cv2.INTER_LINEAR
    found = _resized(window, (cols, rows), way)
    if whole:
        return found
    weight = _resized(seen.astype(np.float32), (cols, rows), way)
    return _over(found, weight)


def _resized(plane: Near, size: tuple[int, int], way: int) -> Near:
    found = cv2.resize(np.ascontiguousarray(plane), size, interpolation=way)
    return np.asarray(found, np.float32).reshape(size[1], size[0])


def _over(found: Near, weight: Near) -> Near:
    known = weight > 0.5
    share = found / np.where(known, weight, np.float32(1))
    return np.where(known, share.clip(0, 1), np.float32(np.nan))


def _tilted(
    flat: Near, known: NDArray[np.bool_], part: ArtworkPart, size: tuple[int, int]
) -> Near:
    straight = (np.arange(_FULL + 1) / _FULL).astype(np.float32)
    codes = np.rint(flat.clip(0, 1) * _FULL).astype(np.uint16)
    back = np.arange(_FULL + 1).astype(np.uint16)
    matrix = grid_to_file(part, *size)
    found = warp(codes, matrix, size, straight, back, way=cv2.INTER_LINEAR) / np.float32(
        _FULL
    )
    if known.all():
        return np.asarray(found, np.float32)
    share = place_share((known * np.uint8(255)).astype(np.uint8), part, *size)
    return _over(
        np.asarray(found, np.float32), (share / np.float32(255)).astype(np.float32)
    )
