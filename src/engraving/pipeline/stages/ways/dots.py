"""Dots of a beam, row by row; with a power of their own it is continuous power."""

from collections.abc import Iterator
from dataclasses import dataclass

from engraving.dots import BitGrid
from engraving.jobspec import WAY_MACHINES, MachinePart, MountPart
from engraving.pipeline.stage import Asked, all_but, stage, value
from engraving.pipeline.stages.dots import burned_dots
from engraving.pipeline.stages.settings import cell_mm, mirrored
from engraving.pipeline.stages.tones import palette, spot
from engraving.pipeline.stages.ways.way import Pixels, Way
from engraving.place import as_written, mounted
from engraving.proof import Window, shown_marks
from engraving.toolpath import Moves, RasterPath, plan_raster, record

MOVES_BY = all_but(
    "machine", "name", "header", "footer", "air_on", "air_off", "points", "lenses",
    "lens", "rated_power_w", "lowest_power", "link_baud", "response_ms", "line_end", "beam",
    "short_names", "file_ending", "file_mb", "longest_min",
)  # fmt: skip
"""What of a machine decides how its head moves."""
LIES = ("size", "blank", "place", "mount")
WRITTEN = (*MOVES_BY, *LIES, "burn", "operations")


@value(reads=WRITTEN)
def rows(asked: Asked) -> tuple[RasterPath, ...]:
    """How the picture's rows run on the machine."""
    return plan_raster(mounted(as_written(asked.spec)))


@value(reads=WRITTEN)
def writing(asked: Asked) -> MachinePart:
    """The machine as it moves, with as many decimals as the job needs."""
    return as_written(asked.spec).machine


@dataclass(frozen=True)
class Mounted:
    """How a wall's dots lie on the machine."""

    mount: MountPart
    along_mm: float
    pitch_mm: float


@value(reads=("mount",), needs=(cell_mm,))
def mounting(asked: Asked) -> Mounted | None:
    """How a round piece is held; None on a flat bed."""
    return (
        Mounted(asked.spec.mount, *asked.get(cell_mm)) if asked.spec.mount.rotary else None
    )


def laid(bits: BitGrid, held: Mounted | None) -> BitGrid:
    """Return dots as they lie on the machine.

    A round piece is turned a quarter, its top to the side that the mount says; at
    its seam the first rows are burned once more where an overlap is wanted.
    """
    if held is None:
        return bits
    mount = held.mount
    quarter = bits.turned(left=mount.top == "left")
    again = round(mount.overlap_mm / held.along_mm) if mount.wrap else 0
    # Rows are burned from the back forward; the seam's first ones come again in front.
    return quarter.extended(min(again, quarter.rows)) if again else quarter


def strips(bits: BitGrid, held: Mounted | None) -> Iterator[tuple[BitGrid, int]]:
    """Yield the strips of a wall along its axis, and the column each begins at."""
    # The quarter turn has made the distance of rows the length of a dot.
    wide = round(held.mount.strip_mm / held.pitch_mm) if held is not None else 0
    if not wide or wide >= bits.cols:
        yield bits, 0
        return
    for at in range(0, bits.cols, wide):
        yield bits.columns(at, min(at + wide, bits.cols)), at


@stage(needs=(burned_dots, mirrored, mounting))
def dots_on_machine(asked: Asked) -> BitGrid:
    """Return a beam's dots as they lie on the machine."""
    bits = asked.get(burned_dots)
    bits = bits.mirrored() if asked.get(mirrored) else bits
    return laid(bits, asked.get(mounting))


@stage(needs=(dots_on_machine, rows, mounting), kind="passing")
def dot_moves(asked: Asked) -> Iterator[Moves]:
    """Yield the rows of a beam's dots."""
    bits = asked.get(dots_on_machine)
    for path in asked.get(rows):
        for strip, at in strips(bits, asked.get(mounting)):
            yield from record(strip, path.moved_along(at))


@stage(needs=(burned_dots, spot, palette), kind="passing")
def dot_proof(asked: Asked, window: Window, lamp_deg: float) -> Pixels:  # noqa: ARG001
    """Return a window of the burned piece; a lamp changes nothing of it."""
    return shown_marks(asked.get(burned_dots), window, asked.get(spot), asked.get(palette))


DOTS = Way(
    "dots",
    "Dots",
    "Tone by how many dots are burned, or by how strong they are; for any beam.",
    WAY_MACHINES["dots"],
    ("diffusion", "ordered", "screen", "line", "power", "threshold"),
    dot_moves,
    burned_dots,
    dot_proof,
)
