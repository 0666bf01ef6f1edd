"""The lines of operations that follow outlines."""

import numpy as np
from shapely import MultiPolygon, union_all
from shapely.geometry import box

from engraving.drawing import filled
from engraving.geometry.polygons import polygons
from engraving.geometry.rotation import turned_points
from engraving.jobspec import OperationPart
from engraving.lettering import line_outlines
from engraving.outline import Followed, Traced, follow, kept_areas, traced
from engraving.pipeline.stage import Asked, stage
from engraving.pipeline.stages.picture import face, mask
from engraving.pipeline.stages.settings import GRID, cell_mm
from engraving.pipeline.stages.tones import toned
from engraving.place import Box, piece_box
from engraving.toolpath import run_up_to

LIES = ("size", "place", "blank", "side")
_PLAIN = OperationPart()
_SAME_LINES = (
    "deepest_mm", "tool", "name", "seen", "lock_scale", "recipe", "recipe_version", "on",
    "speed_mm_s", "power", "passes", "air", "focus_mm",
)  # fmt: skip
_MADE_ALIKE = {name: getattr(_PLAIN, name) for name in _SAME_LINES}
"""What an operation's lines do not depend on."""


@stage(reads=GRID, needs=(mask, cell_mm))
def kept_by_mask(asked: Asked, operation: OperationPart) -> MultiPolygon:
    """Return the areas that the mask keeps, in mm about the picture's middle."""
    kept, size = asked.get(mask), asked.spec.size
    if kept is None:
        wide, high = size.width_mm / 2, size.height_mm / 2
        return MultiPolygon([box(-wide, -high, wide, high)])
    return kept_areas(kept, asked.get(cell_mm), operation.trace)


@stage(needs=(toned, mask, cell_mm))
def tones_traced(asked: Asked, operation: OperationPart) -> Traced:
    """Return the areas traced from the picture, in mm about its middle, and specks."""
    return traced(asked.get(toned), asked.get(cell_mm), operation.trace, asked.get(mask))


@stage(needs=(tones_traced,), kind="passing")
def traced_areas(asked: Asked, operation: OperationPart) -> MultiPolygon:
    """Return the areas traced from the picture."""
    return asked.get(tones_traced, operation).areas


@stage(needs=(tones_traced,), kind="passing")
def specks_dropped(asked: Asked, operation: OperationPart) -> int:
    """Return how many areas and holes of what is traced are too small to be kept."""
    plain = operation.model_copy(update=_MADE_ALIKE)
    return asked.get(tones_traced, plain).specks


@stage(reads=("lettering",), needs=(face,))
def lettered_areas(asked: Asked, operation: OperationPart) -> MultiPolygon:  # noqa: ARG001
    """Return the areas of the job's lettering, in mm about the picture's middle."""
    found = []
    for line in asked.spec.lettering.lines:
        for glyph in line_outlines(asked.get(face, line.font), line):
            # Fonts are filled where their contours wind round a place.
            found += filled(glyph, nonzero=True) if glyph else []
    return polygons(union_all(found)) if found else MultiPolygon()


@stage(reads=LIES)
def along_shape(asked: Asked, operation: OperationPart) -> Followed:
    """Return the lines along a shape that does not come from the picture."""
    return follow(asked.spec, operation, None)


@stage(reads=LIES, needs=(kept_by_mask,))
def along_mask(asked: Asked, operation: OperationPart) -> Followed:
    """Return the lines along what the mask keeps."""
    return follow(asked.spec, operation, asked.get(kept_by_mask, operation))


@stage(reads=LIES, needs=(traced_areas,))
def along_traced(asked: Asked, operation: OperationPart) -> Followed:
    """Return the lines along what is traced."""
    return follow(asked.spec, operation, asked.get(traced_areas, operation))


@stage(reads=LIES, needs=(lettered_areas,))
def along_lettering(asked: Asked, operation: OperationPart) -> Followed:
    """Return the lines along the job's lettering."""
    return follow(asked.spec, operation, asked.get(lettered_areas, operation))


_ALONG = (along_shape, along_mask, along_traced, along_lettering)


@stage(needs=_ALONG, kind="passing")
def followed(asked: Asked, operation: OperationPart) -> Followed:
    """Return an operation's lines, and what following its shapes met with.

    Seen on the bed, in their order, as if the piece lay straight:
    `place.turn_deg` turns the moves.
    """
    plain = operation.model_copy(update=_MADE_ALIKE)
    if operation.shape == "picture":
        return asked.get(along_mask, plain)
    if operation.shape == "traced":
        return asked.get(along_traced, plain)
    if operation.shape == "lettering":
        return asked.get(along_lettering, plain)
    return asked.get(along_shape, plain)


@stage(needs=(kept_by_mask, traced_areas, lettered_areas), kind="passing")
def areas_found(asked: Asked, operation: OperationPart) -> MultiPolygon | None:
    """Return what the mask keeps, what is traced or lettered, seen from the side looked at.

    None of shapes that need none of these.
    """
    plain = operation.model_copy(update=_MADE_ALIKE)
    if operation.shape == "lettering":
        return asked.get(lettered_areas, plain)
    if operation.shape == "picture":
        return asked.get(kept_by_mask, plain)
    return asked.get(traced_areas, plain) if operation.shape == "traced" else None


@stage(reads=("operations", "size", "place", "machine"), needs=(followed,), kind="passing")
def spans(asked: Asked) -> dict[int, Box]:
    """Return where the head goes for each included outline, by its place."""
    found, spec = {}, asked.spec
    turn, middle = spec.place.turn_deg, piece_box(spec.size, spec.place).middle
    for at, one in enumerate(spec.operations):
        if one.kind == "raster" or not one.on:
            continue
        paths = asked.get(followed, one).paths
        if one.kind == "hatch":
            paths = [run_up_to(path, spec.machine, one.speed_mm_s, turn) for path in paths]
        if paths:
            ends = turned_points(np.concatenate(paths), middle, turn)
            (left, front), (right, back) = np.min(ends, axis=0), np.max(ends, axis=0)
            found[at] = Box(float(left), float(front), float(right), float(back))
    return found
