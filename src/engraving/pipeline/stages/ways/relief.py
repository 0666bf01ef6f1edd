"""Relief: a depth picture carved by a beam in many passes."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.artwork.depth import DepthPicture, place_depth
from engraving.artwork.overlay import DARK, LIGHT
from engraving.colour.hexadecimal import linear_of
from engraving.dots import BitGrid
from engraving.jobspec import WAY_MACHINES, ReliefPart, SizePart, SubstratePart
from engraving.pipeline.stage import Asked, stage, value
from engraving.pipeline.stages.dots import engravable
from engraving.pipeline.stages.picture import FILE, PLACED, mask, overlay
from engraving.pipeline.stages.settings import cell_mm, grid_counts, mirrored
from engraving.pipeline.stages.ways.dots import WRITTEN, laid, mounting, rows, strips
from engraving.pipeline.stages.ways.way import Pixels, Way, Words, as_shown, part_of
from engraving.place import as_written, mounted
from engraving.proof import Window, place_on_blank, softness
from engraving.proof.plaster import lit, shaded
from engraving.relief import Relief, depths_mm, passes_of, planned
from engraving.toolpath import Moves, RasterPath, plan_raster, record


@stage(reads=FILE)
def depth_picture(asked: Asked) -> DepthPicture:
    """Return the picture as depth, as its file has it."""
    return asked.source.depth(asked.spec.artwork)


@stage(reads=PLACED, needs=(depth_picture, grid_counts))
def near(asked: Asked) -> NDArray[np.float32]:
    """Return nearness with one sample per dot, 1 nearest, NaN without depth."""
    cols, down, repeat = asked.get(grid_counts)
    found = place_depth(
        asked.get(depth_picture).near, asked.spec.artwork, cols // repeat, down
    )
    return found if repeat == 1 else np.tile(found, (1, repeat))


@value(reads=("marking.way", "marking.relief"))
def relief_part(asked: Asked) -> ReliefPart | None:
    """How deep a relief is carved; None where the picture is marked otherwise."""
    marking = asked.spec.marking
    return marking.relief if marking.way == "relief" else None


@stage(needs=(near, relief_part, cell_mm, mask, overlay, engravable))
def relief(asked: Asked) -> Relief:
    """Return the relief as it is looked at: depths, and the passes of each dot.

    What the mask leaves out stays untouched; of lettering and border what is dark lies
    at the ground, what is light at the surface.
    """
    part = asked.get(relief_part) or ReliefPart()
    found, kept, drawn = asked.get(near), asked.get(mask), asked.get(overlay)
    far, top = (1.0, 0.0) if part.invert else (0.0, 1.0)
    if drawn is not None:
        found = np.where(drawn == DARK, np.float32(far), found)
        found = np.where(drawn == LIGHT, np.float32(top), found)
    if kept is not None:
        found = np.where(kept > 127, found, np.float32(np.nan))
    inside = asked.get(engravable)
    if inside is not None:
        allowed = np.unpackbits(inside, axis=1, count=found.shape[1]) > 0
        found = np.where(allowed, found, np.float32(np.nan))
    return planned(depths_mm(found, part, asked.get(cell_mm)), part)


@stage(needs=(relief,))
def relief_dots(asked: Asked) -> BitGrid:
    """Return the dots that are fired at, at all."""
    return BitGrid.from_dots((asked.get(relief).passes > 0).astype(np.uint8))


@value(reads=(*WRITTEN, "marking.relief"))
def cleaning_rows(asked: Asked) -> tuple[RasterPath, ...]:
    """How the rows of a cleaning pass run."""
    spec, part = asked.spec, asked.spec.marking.relief
    burn = {"speed_mm_s": part.clean_speed_mm_s, "power": part.clean_power}
    cleaning = spec.model_copy(update={"burn": spec.burn.model_copy(update=burn)})
    return plan_raster(mounted(as_written(cleaning)))


@dataclass(frozen=True)
class Focusing:
    """How far below the surface's the focus lies.

    Attributes
    ----------
    middle_mm : float
        In all passes.
    every, step_mm : int, float
        After so many passes it is lowered so far; never where the first is 0.
    """

    middle_mm: float = 0.0
    every: int = 0
    step_mm: float = 0.0

    def below(self, number: int) -> float:
        """Return how far it lies below in a pass, counted from 0."""
        lowered = number // self.every * self.step_mm if self.every else 0.0
        return self.middle_mm + lowered


@value(reads=("machine.z_axis",), needs=(relief_part,))
def focusing(asked: Asked) -> Focusing:
    """How the machine moves its focus; not at all where it cannot."""
    part = asked.get(relief_part)
    if part is None or not asked.spec.machine.z_axis or part.focus == "surface":
        return Focusing()
    if part.focus == "middle":
        return Focusing(min(part.depth_mm, part.floor_mm or part.depth_mm) / 2)
    return Focusing(0.0, part.focus_every, part.focus_every * part.per_pass_mm)


@stage(
    needs=(relief, relief_part, mirrored, mounting, rows, cleaning_rows, focusing),
    kind="passing",
)
def relief_moves(asked: Asked) -> Iterator[Moves]:
    """Yield the rows of all passes, one pass after the other.

    Where rows are crossed, passes run along one axis and the other by turns.
    """
    part = asked.get(relief_part)
    if part is None:
        return
    plan = asked.get(relief)
    plan = plan.mirrored() if asked.get(mirrored) else plan
    held, focus = asked.get(mounting), asked.get(focusing)
    for one in passes_of(plan, part):
        paths = asked.get(cleaning_rows) if one.cleaning else asked.get(rows)
        path = paths[one.number % len(paths)]
        path = replace(path, passes=1, z_mm=path.z_mm - focus.below(one.number))
        for strip, at in strips(laid(one.dots, held), held):
            yield from record(strip, path.moved_along(at))


Depths = NDArray[np.float32]

_SOFT = 0.8
"""A pass's edge is so many spots, or dots, soft (own choice)."""
_CAVED = np.float32(0.3)
"""So far the deepest ground looks like what is burned (own choice)."""


@value(
    reads=(
        "size", "substrate.uneven", "substrate.texture", "substrate.texture_turned",
    )
)  # fmt: skip
def soft_and_hard(asked: Asked) -> tuple[SizePart, SubstratePart] | None:
    """Where the picture lies on an uneven material; None where it carves evenly."""
    spec = asked.spec
    return (spec.size, spec.substrate) if spec.substrate.uneven else None


@stage(reads=("machine.spot_mm",), needs=(relief, cell_mm, soft_and_hard), kind="passing")
def relief_surface(asked: Asked, window: Window) -> Depths:
    """Return how deep a window comes out, mm, at the size it is shown.

    Of an uneven material it is deeper where that is soft.
    """
    spec, found, cell = asked.spec, asked.get(relief), asked.get(cell_mm)
    made = part_of(found.passes, window, 0).astype(np.float32)
    made *= np.float32(found.per_pass_mm)
    if not window.shrinks:
        soft = [max(_SOFT * spec.machine.spot_mm / one, _SOFT) for one in cell]
        made = np.asarray(cv2.GaussianBlur(made, (0, 0), soft[0], sigmaY=soft[1]))
    shown = as_shown(made, window)
    grain = asked.get(soft_and_hard)
    if grain is None:
        return shown
    factor = softness(grain[1], place_on_blank(grain[0], window))
    return shown if factor is None else np.asarray(shown * factor, np.float32)


@stage(
    reads=("substrate.ground", "substrate.mark"),
    needs=(relief, relief_surface, cell_mm), kind="passing",
)  # fmt: skip
def relief_proof(asked: Asked, window: Window, lamp_deg: float) -> Pixels:
    """Return a window of the carved piece as lit plaster of its own colour."""
    spec, found, cell = asked.spec, asked.get(relief), asked.get(cell_mm)
    shown = asked.get(relief_surface, window)
    px = (window.cols * cell[0] / shown.shape[1], window.rows * cell[1] / shown.shape[0])
    share = _CAVED * shown / np.float32(max(found.deepest_mm, 1e-6))
    ground, mark = linear_of(spec.substrate.ground), linear_of(spec.substrate.mark)
    return shaded(ground, mark, share, lit(shown, px, lamp_deg))


@stage(needs=(relief,), kind="passing")
def relief_plan(asked: Asked, window: Window) -> Pixels:
    """Return a window of the passes as grays, white never fired at."""
    found = asked.get(relief)
    share = part_of(found.passes, window, 0) / np.float32(max(found.count, 1))
    gray = as_shown(255 * (1 - share.astype(np.float32)), window)
    codes = np.rint(gray).astype(np.uint8)
    return np.repeat(codes[..., None], 3, axis=2)


@stage(needs=(relief,))
def depth_codes(asked: Asked) -> Pixels:
    """Return the wanted depths as grays, 255 the surface, 0 the deepest."""
    found = asked.get(relief)
    share = found.depths / np.float32(max(found.deepest_mm, 1e-6))
    return np.rint(255 * (1 - share)).astype(np.uint8)


RELIEF = Way(
    "relief",
    "Relief",
    "A depth picture carved by many passes, white near and black far.",
    WAY_MACHINES["relief"],
    (),
    relief_moves,
    relief_dots,
    relief_proof,
    relief_plan,
    depth_codes,
    Words("Depth", "Passes", "Depth"),
    0.35,
    relief_surface,
    "depth",
)
