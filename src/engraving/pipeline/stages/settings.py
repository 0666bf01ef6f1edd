"""Values of a job that stages go by: what counts of its settings, and what follows."""

from dataclasses import dataclass

from engraving.pipeline.stage import Asked, all_but, value
from engraving.recipe import exposure, smear_mm, spot_on_surface_mm

GRID = ("size.width_mm", "size.height_mm", "size.pitch_mm", "size.dot_pitch_mm")
"""What the grid's dots follow from."""
FIXTURE = all_but("fixture", "shown")
"""What a fixture's pockets follow from: not which of them is looked at."""


@value(reads=(*GRID, "size.repeat"))
def grid_counts(asked: Asked) -> tuple[int, int, int]:
    """Columns and rows of the grid, and how often the artwork lies side by side."""
    size = asked.spec.size
    return size.cols, size.rows, size.repeat


@value(reads=("size.pitch_mm", "size.dot_pitch_mm"))
def cell_mm(asked: Asked) -> tuple[float, float]:
    """Length of a dot along its row, and distance from row to row."""
    return asked.spec.size.cell_mm


_SIDE = ("substrate.polarity", "side")


@value(reads=_SIDE)
def burns_dark(asked: Asked) -> bool:
    """Whether the picture's dark tones are the ones that are burned."""
    return asked.spec.burns_dark


@value(reads=("side",))
def inverted(asked: Asked) -> bool:
    """Whether black and white change places before burning."""
    return asked.spec.inverted


@value(reads=("side",))
def mirrored(asked: Asked) -> bool:
    """Whether the dots are burned mirrored, left to right."""
    return asked.spec.mirrored


@dataclass(frozen=True)
class Beam:
    """The beam where it meets the surface.

    Attributes
    ----------
    spot_mm, smear_mm : float
        The spot's diameter, and how far the head moves while the beam comes up.
    shape : str
    pulsed : bool
    """

    spot_mm: float
    smear_mm: float
    shape: str
    pulsed: bool


@value(
    reads=(
        "machine.spot_mm", "machine.spot_shape", "machine.pulsed", "machine.kind",
        "machine.lens", "machine.lenses", "machine.wavelength_um", "machine.beam_quality",
        "machine.response_ms", "burn.focus_mm", "burn.speed_mm_s",
    )
)  # fmt: skip
def beam(asked: Asked) -> Beam:
    """The beam as machine and settings make it."""
    spec, machine = asked.spec, asked.spec.machine
    return Beam(
        spot_on_surface_mm(spec), smear_mm(spec), machine.spot_shape, machine.pulsed
    )


@value(
    reads=(
        "machine.rated_power_w", "burn.power", "burn.speed_mm_s", "burn.passes",
        "burn.rows", "burn.cross", "burn.recipe_dose", "size.pitch_mm", "size.dot_pitch_mm",
    )
)  # fmt: skip
def dose(asked: Asked) -> float:
    """The job's dose as a multiple of its recipe's."""
    return exposure(asked.spec)
