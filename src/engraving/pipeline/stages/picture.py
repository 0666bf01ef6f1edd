"""The picture on the burn grid: gray, mask, retouching, lettering and border."""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.artwork import Artwork, place_on_grid
from engraving.artwork.depth_look import depth_odds
from engraving.artwork.grid import place_share, repeat_dots
from engraving.artwork.mask import LONGEST_PX as MASK_PX
from engraving.artwork.mask import edited, finished, whole
from engraving.artwork.mix import gray_plane, needs_colour
from engraving.artwork.overlay import draw_overlay
from engraving.artwork.retouch import LONGEST_PX as SHADE_PX
from engraving.artwork.retouch import Shading, shaded, unshaded
from engraving.artwork.seen import place_seen
from engraving.geometry.shrinking import shrunk, shrunk_size
from engraving.jobspec import (
    BorderPart,
    Ground,
    LetteringPart,
    MaskPart,
    RetouchPart,
    SizePart,
)
from engraving.lettering import Face
from engraving.pipeline.stage import Asked, stage, value
from engraving.pipeline.stages.settings import GRID, grid_counts

Codes = NDArray[np.uint8]

FILE = ("artwork.sha256", "artwork.page")
_MIX = (*FILE, "artwork.mix", "artwork.dropped", "artwork.ground", "artwork.ground_gray")
PLACED = (
    "artwork.width_px", "artwork.height_px", "artwork.corners", "artwork.turns",
    "artwork.mirror", "artwork.straighten_deg", "artwork.crop", "artwork.keep_dots",
)  # fmt: skip


@stage(reads=FILE)
def artwork(asked: Asked) -> Artwork:
    """Return the picture as read, without its colours."""
    return asked.source.artwork(asked.spec.artwork, colour=False)


@stage(reads=FILE, needs=(artwork,))
def likely_depth(asked: Asked) -> float:
    """Return how likely the picture tells depths and not tones, 0..1."""
    return depth_odds(asked.get(artwork).gray)


@stage(reads=FILE)
def coloured(asked: Asked) -> Artwork:
    """Return the picture as read, with its colours."""
    return asked.source.artwork(asked.spec.artwork, colour=True)


@stage(reads=FILE)
def likeness(asked: Asked) -> Codes:
    """Return RGBA codes of the whole upright picture, to look at and draw upon."""
    return asked.source.likeness(asked.spec.artwork)


@stage()
def face(asked: Asked, name: str) -> Face:
    """Return a font."""
    return asked.source.face(name)


@value(reads=("artwork.mix", "artwork.dropped"))
def in_colour(asked: Asked) -> bool:
    """Whether the file's colours are needed."""
    return needs_colour(asked.spec.artwork)


def _file(asked: Asked) -> Artwork:
    """Return the file as this job needs it read."""
    return asked.get(coloured if asked.get(in_colour) else artwork)


@stage(reads=_MIX, needs=(artwork, coloured, in_colour))
def plane(asked: Asked) -> NDArray[Any]:
    """Return the whole gray picture as the job mixes it."""
    part, found = asked.spec.artwork, _file(asked)
    plain = found.alpha is None or part.ground == Ground.UNBURNED
    if plain and not (asked.get(in_colour) and found.colour is not None):
        return found.gray
    return gray_plane(found, part)


@value(reads=("artwork.ground",))
def unburned_ground(asked: Asked) -> bool:
    """Whether what is transparent is left unburned."""
    return asked.spec.artwork.ground == Ground.UNBURNED


@stage(reads=PLACED, needs=(grid_counts,), kind="passing")
def placed(asked: Asked) -> None:
    """Where the picture lies on the grid: asked for its key only."""


@stage(
    reads=PLACED, needs=(artwork, coloured, in_colour, plane, grid_counts, unburned_ground)
)
def grid(asked: Asked) -> NDArray[Any]:
    """Return the artwork with one pixel per dot, shape (rows, cols)."""
    part, gray = asked.spec.artwork, asked.get(plane)
    cols, rows, repeat = asked.get(grid_counts)
    once = cols // repeat, rows
    alpha = _file(asked).alpha
    if part.keep_dots:
        return _side_by_side(repeat_dots(gray, part, *once), repeat)
    if alpha is not None and asked.get(unburned_ground):
        return _side_by_side(place_seen(gray, alpha, part, *once), repeat)
    return _side_by_side(place_on_grid(gray, part, *once), repeat)


@stage(reads=PLACED, needs=(artwork, coloured, in_colour, grid_counts))
def opacity(asked: Asked) -> Codes | None:
    """Return the artwork's own opacity on the grid; None where all is opaque."""
    part = asked.spec.artwork
    alpha = _file(asked).alpha
    if alpha is None:
        return None
    cols, rows, repeat = asked.get(grid_counts)
    placing = repeat_dots if part.keep_dots else place_share
    return _side_by_side(placing(alpha, part, cols // repeat, rows), repeat)


@stage(needs=(likeness,))
def mask_likeness(asked: Asked) -> Codes:
    """Return the picture that the mask is drawn upon, RGB codes."""
    return shrunk(np.ascontiguousarray(asked.get(likeness)[..., :3]), MASK_PX)


@stage(reads=("mask.edits",), needs=(mask_likeness,))
def edited_mask(asked: Asked) -> Codes:
    """Return the mask after all edits, on a likeness of the whole picture."""
    rgb = asked.get(mask_likeness)
    start = whole(rgb.shape[1], rgb.shape[0])
    return asked.folded(
        start, asked.spec.mask.edits, lambda mask, one: edited(mask, one, rgb),
        uses=(mask_likeness,),
    )  # fmt: skip


@value(reads=("mask",))
def drawn(asked: Asked) -> MaskPart | None:
    """What is drawn of a mask; None where nothing is."""
    mask = asked.spec.mask
    return mask if mask.on and (mask.edits or mask.frame != "none") else None


@value(reads=GRID, needs=(drawn,))
def drawn_size(asked: Asked) -> SizePart | None:
    """The size the mask is drawn at; None where nothing is."""
    return None if asked.get(drawn) is None else asked.spec.size


@stage(reads=PLACED, needs=(edited_mask, drawn, drawn_size, grid_counts))
def drawn_mask(asked: Asked) -> Codes | None:
    """Return the drawn mask on the grid, 255 is kept; None where all is."""
    part, size, shape = asked.get(drawn), asked.get(drawn_size), None
    if part is None or size is None:
        return None
    if part.edits:
        cols, rows, repeat = asked.get(grid_counts)
        flat = place_share(asked.get(edited_mask), asked.spec.artwork, cols // repeat, rows)
        shape = _side_by_side(flat, repeat)
    return finished(shape, part, size)


@stage(needs=(drawn_mask, opacity, unburned_ground))
def mask(asked: Asked) -> Codes | None:
    """Return what is kept of each dot, 255 all; None where all is kept."""
    clear = asked.get(opacity) if asked.get(unburned_ground) else None
    shape = asked.get(drawn_mask)
    if clear is None or shape is None:
        return shape if clear is None else clear
    return np.asarray(cv2.multiply(shape, clear, scale=1 / 255))


@value(reads=("retouch",))
def strokes(asked: Asked) -> RetouchPart | None:
    """What is retouched; None where nothing is."""
    retouch = asked.spec.retouch
    return retouch if retouch.on and retouch.strokes else None


@stage(reads=("artwork.width_px", "artwork.height_px"), needs=(strokes,))
def shaded_file(asked: Asked) -> Shading | None:
    """Return factor and addend of the tones over the whole picture, or None."""
    part, retouch = asked.spec.artwork, asked.get(strokes)
    if retouch is None:
        return None
    start = unshaded(*shrunk_size(part.width_px, part.height_px, SHADE_PX))
    return asked.folded(start, retouch.strokes, shaded)


@stage(reads=PLACED, needs=(shaded_file, grid_counts))
def shading(asked: Asked) -> Codes | None:
    """Return factor and addend of the tones, shape (2, rows, cols), or None."""
    found = asked.get(shaded_file)
    if found is None:
        return None
    cols, rows, repeat = asked.get(grid_counts)
    planes = np.rint(found.clip(0, 1) * 255).astype(np.uint8)
    once = [place_share(one, asked.spec.artwork, cols // repeat, rows) for one in planes]
    return np.stack([_side_by_side(one, repeat) for one in once])


@dataclass(frozen=True)
class Overlaid:
    """What is drawn over the picture, and the frame that a border follows."""

    lettering: LetteringPart
    border: BorderPart
    frame: MaskPart


@value(reads=("operations",))
def letters_apart(asked: Asked) -> bool:
    """Whether an operation of its own makes the lettering."""
    return any(one.on and one.shape == "lettering" for one in asked.spec.outlines)


@value(
    reads=(
        "lettering", "border", "mask.frame", "mask.frame_inset_mm", "mask.corner_mm",
    ),
    needs=(letters_apart,),
)  # fmt: skip
def overlaid(asked: Asked) -> Overlaid | None:
    """What is lettered and bordered; None where nothing is."""
    spec = asked.spec
    lettering = LetteringPart() if asked.get(letters_apart) else spec.lettering
    if not spec.border.on and not lettering.lines:
        return None
    return Overlaid(lettering, spec.border, spec.mask)


@value(reads=GRID, needs=(overlaid,))
def overlaid_size(asked: Asked) -> SizePart | None:
    """The size it is drawn at; None where nothing is."""
    return None if asked.get(overlaid) is None else asked.spec.size


@stage(needs=(overlaid, overlaid_size, face))
def overlay(asked: Asked) -> Codes | None:
    """Return what is drawn in pure dark (1) or light (2); None when nothing is."""
    what, size = asked.get(overlaid), asked.get(overlaid_size)
    if what is None or size is None:
        return None
    return draw_overlay(
        size, what.lettering, what.border, what.frame, lambda name: asked.get(face, name)
    )


def _side_by_side(codes: NDArray[Any], repeat: int) -> NDArray[Any]:
    return codes if repeat == 1 else np.tile(codes, (1, repeat))
