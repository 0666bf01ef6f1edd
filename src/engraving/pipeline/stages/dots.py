"""From levels to the dots that are burned."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from engraving.artwork.overlay import DARK, LIGHT
from engraving.cards import likeness as card_likeness
from engraving.dots import BitGrid, make_dots
from engraving.dots.runs import count_short, least_run_dots, without_short
from engraving.jobspec import BlankPart, JobSpec, SizePart
from engraving.pipeline.cone import drawn_on_cone
from engraving.pipeline.stage import Asked, stage, value
from engraving.pipeline.stages.picture import mask, overlay
from engraving.pipeline.stages.settings import FIXTURE, GRID, burns_dark, cell_mm
from engraving.pipeline.stages.tones import cone, dots_settings, keeps_dots, levels
from engraving.place import engravable_mask, face_mask
from engraving.recipe import least_run_mm

Codes = NDArray[np.uint8]

_LIES = (*GRID, "size.fit", "size.bleed_mm", "size.offset_x_mm", "size.offset_y_mm")
_CARD = (
    "card", "machine", "marking.carving", "burn", "size", "dots", "substrate", "place",
    "blank", "mount", "operations", *FIXTURE,
)  # fmt: skip
"""All that a card is drawn and burned from."""


@value(reads=_CARD)
def card(asked: Asked) -> JobSpec | None:
    """The job as a swatch card; None where it is none."""
    return asked.spec if asked.spec.card is not None else None


@value(needs=(keeps_dots, cell_mm))
def cell_of_dots(asked: Asked) -> tuple[float, float]:
    """The cell that dots are made for: of dots that are kept, its size says nothing."""
    return (1.0, 1.0) if asked.get(keeps_dots) else asked.get(cell_mm)


@stage(needs=(levels, dots_settings, cell_of_dots))
def made(asked: Asked) -> BitGrid:
    """Return the dots as their method makes them, over the whole grid.

    Raises
    ------
    ChoiceError
        When the dot method does not exist.
    """
    return make_dots(asked.get(levels), asked.get(dots_settings), asked.get(cell_of_dots))


_RUNS = (
    "dots.least_run_mm", "machine.response_ms", "burn.speed_mm_s", "size.pitch_mm",
    "size.dot_pitch_mm",
)  # fmt: skip


@value(reads=_RUNS)
def least_run(asked: Asked) -> int:
    """How many dots the shortest run has that burns as planned."""
    return least_run_dots(least_run_mm(asked.spec), asked.spec.size.along_mm)


@value(reads=("dots.runs",), needs=(keeps_dots, least_run))
def mended_runs(asked: Asked) -> tuple[str, int] | None:
    """What becomes of runs that are too short; dots that are kept never change."""
    how = asked.spec.dots.runs
    if how == "keep" or asked.get(keeps_dots):
        return None
    return how, asked.get(least_run)


@stage(needs=(made, least_run, card))
def short_runs(asked: Asked) -> int:
    """Return how many runs are too short for the beam to burn as planned."""
    if asked.get(card) is not None:
        return 0
    least, grid = asked.get(least_run), asked.get(made)
    if least < 2 or grid.power is not None:
        return 0
    return count_short(grid.packed, grid.cols, least)


@dataclass(frozen=True)
class Lies:
    """A picture's size, and the blank it lies on."""

    size: SizePart
    blank: BlankPart


@value(reads=("blank", *_LIES))
def lies(asked: Asked) -> Lies:
    """Where the picture lies on which blank."""
    return Lies(asked.spec.size, asked.spec.blank)


@value(reads=("blank.keep_inside",), needs=(lies,))
def kept_inside(asked: Asked) -> Lies | None:
    """The blank that dots are kept inside of; None where they are not."""
    return asked.get(lies) if asked.spec.blank.keep_inside else None


@stage(needs=(kept_inside,))
def engravable(asked: Asked) -> Codes | None:
    """Return the packed mask of the dots that may be burned; None where all may."""
    found = asked.get(kept_inside)
    if found is None:
        return None
    return np.packbits(engravable_mask(found.size, found.blank), axis=1)


@stage(needs=(lies,))
def off_blank(asked: Asked) -> float:
    """Return the share of the picture that lies beyond the blank, 0..1."""
    found = asked.get(lies)
    return 1 - float(face_mask(found.size, found.blank).mean())


@stage(needs=(card, made, mended_runs, mask, overlay, cone, burns_dark, engravable))
def burned_dots(asked: Asked) -> BitGrid:
    """Return the dots of a beam, as seen from the side that is looked at."""
    swatches = asked.get(card)
    if swatches is not None:
        return card_likeness(swatches)
    grid = _mended(asked)
    kept, drawn = _on_wall(asked, (grid.rows, grid.cols))
    if kept is not None:
        # Diffused error may not leave the picture.
        grid = grid.within(np.packbits(kept > 0, axis=1))
    if drawn is not None:
        burned, bare = (DARK, LIGHT) if asked.get(burns_dark) else (LIGHT, DARK)
        grid = grid.with_solid(np.packbits(drawn == burned, axis=1))
        grid = grid.within(~np.packbits(drawn == bare, axis=1))
    inside = asked.get(engravable)
    return grid if inside is None else grid.within(inside)


@stage(needs=(levels, mask, overlay, cone, burns_dark, engravable))
def aimed(asked: Asked) -> Codes:
    """Return the level that every dot's place is burned at, with all that is left bare.

    As `burned_dots`, before they were made: 0 burned solid, 255 left. Where error is
    diffused, dots agree with it over some of them only.
    """
    out = asked.get(levels).copy()
    kept, drawn = _on_wall(asked, out.shape)
    if kept is not None:
        out[kept == 0] = 255
    if drawn is not None:
        burned, bare = (DARK, LIGHT) if asked.get(burns_dark) else (LIGHT, DARK)
        out[drawn == burned] = 0
        out[drawn == bare] = 255
    inside = asked.get(engravable)
    if inside is not None:
        out[np.unpackbits(inside, axis=1, count=out.shape[1]) == 0] = 255
    return out


def _mended(asked: Asked) -> BitGrid:
    grid, runs = asked.get(made), asked.get(mended_runs)
    if runs is None or grid.power is not None:
        return grid
    how, least = runs
    if least < 2:
        return grid
    return BitGrid(without_short(grid.packed, grid.cols, least, how), grid.cols)


def _on_wall(asked: Asked, shape: tuple[int, ...]) -> tuple[Codes | None, Codes | None]:
    """Return mask and overlay as they lie on the grid, drawn for a tapered wall."""
    kept, drawn, wall = asked.get(mask), asked.get(overlay), asked.get(cone)
    if wall is None:
        return kept, drawn
    if kept is None:
        kept = np.full(shape, 255, np.uint8)
    kept = drawn_on_cone(wall, kept, fill=0, sharp=True)
    return kept, None if drawn is None else drawn_on_cone(wall, drawn, fill=0, sharp=True)
