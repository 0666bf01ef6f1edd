"""The mask: edits in their order on a picture kept whole, then edge and frame.

Edits act on a likeness of the file, so that turning and cropping later take
them along; growing, feathering and the frame act on the burn grid, where a
dot has a size in mm.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.artwork.cutout import cut_subject, polygon
from engraving.artwork.shapes import inside_shape
from engraving.artwork.strokes import pixels, stroke_plane
from engraving.jobspec import Brush, CutOut, Flood, Lasso, MaskPart, SizePart
from engraving.strips import in_bands

LONGEST_PX = 2048
"""Of the likeness the edits act on."""


def whole(width: int, height: int) -> NDArray[np.uint8]:
    """Return the mask that keeps everything."""
    return np.full((height, width), 255, np.uint8)


def laid_over(
    codes: NDArray[np.uint8], kept: NDArray[np.uint8], bare: int
) -> NDArray[np.uint8]:
    """Return a picture with a mask over it: what is not kept fades to a code.

    Parameters
    ----------
    codes, kept : ndarray of uint8, shape (rows, cols)
    bare : int
        0..255, where nothing is kept.
    """
    out, ground = np.zeros_like(codes), np.float32(bare)

    def lay(first: int, last: int) -> None:
        share = kept[first:last].astype(np.float32) / 255
        out[first:last] = np.rint(ground + (codes[first:last] - ground) * share)

    in_bands(len(codes), lay)
    return out


def edited(
    mask: NDArray[np.uint8], edit: CutOut | Flood | Brush | Lasso, rgb: NDArray[np.uint8]
) -> NDArray[np.uint8]:
    """Return a mask after one more edit.

    Parameters
    ----------
    mask : ndarray of uint8, shape (height, width)
        255 = kept.
    edit : CutOut, Flood, Brush or Lasso
    rgb : ndarray of uint8, shape (height, width, 3)
        The likeness of the picture, upright and uncut.
    """
    height, width = mask.shape
    if isinstance(edit, CutOut):
        return np.minimum(mask, cut_subject(rgb, edit))
    if isinstance(edit, Flood):
        share = flooded(rgb, edit)
    elif isinstance(edit, Lasso):
        share = polygon(edit.points, width, height)
    else:
        share = np.rint(stroke_plane(edit, width, height) * 255).astype(np.uint8)
    return np.maximum(mask, share) if edit.keep else np.minimum(mask, 255 - share)


def flooded(rgb: NDArray[np.uint8], edit: Flood) -> NDArray[np.uint8]:
    """Return all that is coloured like a point, 255 = like it.

    A pixel is like it when every channel lies within the tolerance.
    """
    height, width = rgb.shape[:2]
    x, y = pixels((edit.at,), width, height)[0]
    column = min(max(int(x), 0), width - 1)
    row = min(max(int(y), 0), height - 1)
    colour = rgb[row, column].astype(np.float64)
    low = np.maximum(colour - edit.tolerance, 0)
    high = np.minimum(colour + edit.tolerance, 255)
    like = cv2.inRange(rgb, low, high)
    if not edit.touching:
        return np.asarray(like, np.uint8)
    _, pieces = cv2.connectedComponents(like, connectivity=4)
    return np.where(pieces == pieces[row, column], 255, 0).astype(np.uint8)


def finished(
    mask: NDArray[np.uint8] | None, part: MaskPart, size: SizePart
) -> NDArray[np.uint8] | None:
    """Return the mask on the burn grid with its edge and frame, 255 = kept.

    Parameters
    ----------
    mask : ndarray of uint8, shape (rows, cols), or None
        The edits' mask on the grid; None where there are none.
    part : MaskPart
    size : SizePart
        Tells how large a dot is.
    """
    if mask is not None:
        mask = 255 - mask if part.invert else mask
        mask = feathered(_grown_mm(mask, part.grow_mm, size), part.feather_mm, size)
    frame = frame_mask(part, size)
    if mask is None or frame is None:
        return frame if mask is None else mask
    return np.rint(mask.astype(np.float32) * frame / 255).astype(np.uint8)


def _grown_mm(mask: NDArray[np.uint8], by_mm: float, size: SizePart) -> NDArray[np.uint8]:
    """Return a mask whose edge was moved by a length, measured on square cells."""
    along, pitch = size.cell_mm
    if along == pitch or by_mm == 0:
        return grown(mask, by_mm / pitch)
    cell = min(along, pitch)
    rows, cols = mask.shape
    square = max(round(cols * along / cell), 1), max(round(rows * pitch / cell), 1)
    even = np.asarray(cv2.resize(mask, square, interpolation=cv2.INTER_LINEAR), np.uint8)
    moved = grown(even, by_mm / cell)
    back = cv2.resize(moved, (cols, rows), interpolation=cv2.INTER_AREA)
    return np.asarray(back, np.uint8)


def grown(mask: NDArray[np.uint8], dots: float) -> NDArray[np.uint8]:
    """Return a mask whose edge was moved outwards by some dots, inwards below 0."""
    if dots == 0:
        return mask
    outside = (mask < 128) if dots > 0 else (mask >= 128)
    if not outside.any() or outside.all():
        return mask
    away = cv2.distanceTransform(outside.view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    # The edge lies half a dot before the first dot beyond it.
    reached = np.clip(abs(dots) + 1 - away, 0, 1)
    share = np.rint(reached * 255).astype(np.uint8)
    return np.maximum(mask, share) if dots > 0 else np.minimum(mask, 255 - share)


def feathered(mask: NDArray[np.uint8], over_mm: float, size: SizePart) -> NDArray[np.uint8]:
    """Return a mask whose edge fades over a length, half of it on each side.

    A Gaussian whose 2.5 standard deviations to either side are that length.
    """
    if over_mm <= 0:
        return mask
    across, down = (over_mm / cell / 5 for cell in size.cell_mm)
    edge = cv2.BORDER_REPLICATE
    return np.asarray(cv2.GaussianBlur(mask, (0, 0), across, sigmaY=down, borderType=edge))


def frame_mask(part: MaskPart, size: SizePart) -> NDArray[np.uint8] | None:
    """Return the frame's mask on the grid, 255 inside; None without a frame."""
    if part.frame == "none":
        return None
    width = size.width_mm - 2 * part.frame_inset_mm
    height = size.height_mm - 2 * part.frame_inset_mm
    if part.frame == "circle":
        width = height = min(width, height)
    inside = inside_shape(part.frame, size, width, height, part.corner_mm)
    out = np.zeros((size.rows, size.cols), np.uint8)

    def fill(first: int, last: int) -> None:
        away = inside(first, last)
        if part.vignette_mm > 0:
            t = np.clip(away / part.vignette_mm, 0, 1)
            share = t * t * (3 - 2 * t)
        else:
            share = np.clip(away / min(size.cell_mm) + 0.5, 0, 1)
        out[first:last] = np.rint(share * 255)

    in_bands(size.rows, fill)
    return out
