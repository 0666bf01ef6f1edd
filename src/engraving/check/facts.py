"""What is known of a job when it is checked."""

from collections.abc import Mapping
from dataclasses import dataclass

from engraving.history import AS_PLANNED, Correction
from engraving.jobspec import JobSpec
from engraving.motion import Estimate
from engraving.outline import FollowNotes
from engraving.place import Box


@dataclass(frozen=True)
class RecipeKnown:
    """What is known of the recipe that a job burns by.

    Attributes
    ----------
    speed_mm_s : float
        As it says.
    powers : tuple of float
        The weakest and the strongest, in %, that it was tried at.
    tested : bool
        Whether a card or a piece was burned with it.
    lens : str
        The lens it was made for, where it says one.
    spot_mm : float
        The spot it was made with; 0 is unknown.
    rated_power_w : float
        Of the beam it was made with; 0 is unknown.
    coating, cleaning : str
        What it wants done to the piece before and after.
    """

    speed_mm_s: float
    powers: tuple[float, float]
    tested: bool
    lens: str = ""
    spot_mm: float = 0.0
    rated_power_w: float = 0.0
    coating: str = ""
    cleaning: str = ""


@dataclass(frozen=True)
class Shelf:
    """What stands on the shelf about a job.

    Attributes
    ----------
    recipe : RecipeKnown or None
        The recipe; None where the job has none.
    underlay, coating, cleaning : str
        What the substrate wants under it, on it, and done to it afterwards.
    unlike : tuple of str
        What the machine said of itself, when it was asked last, unlike the shelf.
    correction : Correction
        How the machine's own burns correct planned times.
    """

    recipe: RecipeKnown | None = None
    underlay: str = ""
    coating: str = ""
    cleaning: str = ""
    unlike: tuple[str, ...] = ()
    correction: Correction = AS_PLANNED


@dataclass(frozen=True)
class ReliefKnown:
    """What a relief comes to: its deepest place in mm, and its passes."""

    deepest_mm: float
    passes: int


@dataclass(frozen=True)
class Facts:
    """What is known of a job; None where the artwork was not at hand.

    Attributes
    ----------
    spec : JobSpec
        The job.
    burned_dots : int or None
        Dots that will be burned.
    dots : int or None
        Dots of the whole grid; of a swatch card those of its likeness.
    share : float or None
        Burned share of the grid, 0..1, a dot of half the power as a half.
    opaque : float or None
        Share of the picture that is not transparent, 0..1; None where none is.
    dotted, smeared : bool or None
        Whether the artwork is made of dots already, and whether lossy
        compression has blurred them.
    file_cell_mm : tuple of float or None
        Distance of the file's pixels along and across its rows at its own
        resolution, as the picture is turned; None where it has none.
    melting : float or None
        Share of the subject's edge that looks like its ground, 0..1.
    strokes : tuple of (str, float, float), or None
        Text, thinnest stroke and length in mm of each line of lettering.
    off_blank : float or None
        Share of the picture beyond the blank, 0..1.
    short_runs : int or None
        Runs of dots too short for the beam.
    spans : mapping or None
        Where on the bed the lines of each included outline lie, by its place in
        the list of operations; those without lines are missing. Of a fixture,
        those of the piece that is looked at.
    reaches : mapping or None
        The same of all pockets together.
    outlines : mapping or None
        What following each included outline met with, by the same place.
    bytes_s : float or None
        Bytes of G-code burned a second, where most are.
    timed : Estimate or None
        What the tool path takes.
    lost : tuple of float, or None
        Share of the picture that tones made all black, and all white, which was neither.
    gcode_bytes : int or None
        Size of its G-code, where its machine takes only files that are so large.
    depth_odds : float or None
        How likely the picture tells depths and not tones, 0..1.
    relief : ReliefKnown or None
        What a relief comes to; None of other jobs.
    inside : tuple of (int, float, float), or None
        Of each operation that carves inside outlines: its place in the list, the width
        of the widest place in mm, and that of the tool's tip.
    shelf : Shelf or None
        What stands on the shelf about it; None where there is no shelf.
    """

    spec: JobSpec
    burned_dots: int | None = None
    dots: int | None = None
    share: float | None = None
    opaque: float | None = None
    dotted: bool | None = None
    smeared: bool | None = None
    file_cell_mm: tuple[float, float] | None = None
    melting: float | None = None
    strokes: tuple[tuple[str, float, float], ...] | None = None
    off_blank: float | None = None
    short_runs: int | None = None
    spans: Mapping[int, Box] | None = None
    reaches: Mapping[int, Box] | None = None
    outlines: Mapping[int, FollowNotes] | None = None
    bytes_s: float | None = None
    timed: Estimate | None = None
    lost: tuple[float, float] | None = None
    gcode_bytes: int | None = None
    depth_odds: float | None = None
    relief: ReliefKnown | None = None
    inside: tuple[tuple[int, float, float], ...] | None = None
    shelf: Shelf | None = None
