"""What is marked of the picture, whatever marks it."""

from engraving.dots import BitGrid
from engraving.pipeline.stage import Asked, stage
from engraving.pipeline.stages.dots import card
from engraving.pipeline.stages.settings import mirrored
from engraving.pipeline.stages.ways.registry import WAYS
from engraving.pipeline.stages.ways.way import Way, way_name


def _way(asked: Asked) -> Way:
    """Return the way that counts; a swatch card is made of dots."""
    return WAYS["dots" if asked.get(card) is not None else asked.get(way_name)]


@stage(
    needs=(card, way_name, *(one.likeness for one in WAYS.values())),
    counts=lambda asked: (card, _way(asked).likeness),
    kind="passing",
)
def dots(asked: Asked) -> BitGrid:
    """Return the dots that are marked, as seen from the side that is looked at."""
    return asked.get(_way(asked).likeness)


@stage(needs=(dots, mirrored))
def burned(asked: Asked) -> BitGrid:
    """Return the dots as the machine burns them: mirrored where that is needed."""
    grid = asked.get(dots)
    return grid.mirrored() if asked.get(mirrored) else grid
