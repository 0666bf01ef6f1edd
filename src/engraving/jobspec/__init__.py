"""`JobSpec`: the one description of a raster engraving job, as versioned JSON.

A spec carries values, not references: it holds the machine, substrate and
blank it was made for, so that a job means the same on any computer and after
any change of the shelf. ``docs/job-file.md`` explains
each part to people; `job_file` reads and writes the files.

Lengths are mm, speeds mm/s, accelerations mm/s², powers and shares %, angles
degrees.
"""

from engraving.jobspec.artwork import ArtworkPart, Crop, DroppedColour, Ground, Mix, Point
from engraving.jobspec.base import LARGEST_MM, Part
from engraving.jobspec.blank import (
    COARSEST_PITCH_MM,
    FINEST_PITCH_MM,
    MOST_APART,
    MOST_DOTS,
    ROUND,
    Area,
    BlankPart,
    Polarity,
    SidePart,
    SizePart,
    SubstratePart,
)
from engraving.jobspec.burn import (
    BURN_SETTINGS,
    MOST_PASSES,
    BurnPart,
    OperationKind,
    RecipePart,
)
from engraving.jobspec.card import MOST_CELLS_ALONG, AxisPart, CardKind, CardPart
from engraving.jobspec.dots import LARGEST_SCREEN_MM, DotsPart, Scan
from engraving.jobspec.edits import (
    BorderPart,
    Brush,
    CutOut,
    Flood,
    Hint,
    Lasso,
    LetteringPart,
    Look,
    MaskPart,
    RetouchPart,
    Shade,
    Stroke,
    TextLine,
)
from engraving.jobspec.fixture import MOST_POCKETS, FixturePart, PocketPart
from engraving.jobspec.interpolate import interpolate_specs
from engraving.jobspec.job import (
    SPEC_VERSION,
    JobSpec,
    PlacePart,
    explain,
    sentence,
)
from engraving.jobspec.machine import WITHOUT_BEAM, LensPart, MachinePart
from engraving.jobspec.marking import (
    BOARD_LEFT_MM,
    WAY_MACHINES,
    CarvingPart,
    DragPart,
    LevelPart,
    MarkingPart,
    ReliefPart,
    ToolPart,
    WayName,
)
from engraving.jobspec.marks import MarkPart
from engraving.jobspec.mount import MountPart, ZonePart
from engraving.jobspec.operations import (
    RANK,
    RASTER,
    Compound,
    DrawingPart,
    OperationPart,
    TracePart,
)
from engraving.jobspec.reproduction import ReproductionPart
from engraving.jobspec.tone import GROUPS, MOST_POINTS, MOST_SHADES, TonePart
from engraving.jobspec.values import values_of

__all__ = [
    "BOARD_LEFT_MM",
    "BURN_SETTINGS",
    "COARSEST_PITCH_MM",
    "FINEST_PITCH_MM",
    "GROUPS",
    "LARGEST_MM",
    "LARGEST_SCREEN_MM",
    "MOST_APART",
    "MOST_CELLS_ALONG",
    "MOST_DOTS",
    "MOST_PASSES",
    "MOST_POCKETS",
    "MOST_POINTS",
    "MOST_SHADES",
    "RANK",
    "RASTER",
    "ROUND",
    "SPEC_VERSION",
    "WAY_MACHINES",
    "WITHOUT_BEAM",
    "Area",
    "ArtworkPart",
    "AxisPart",
    "BlankPart",
    "BorderPart",
    "Brush",
    "BurnPart",
    "CardKind",
    "CardPart",
    "CarvingPart",
    "Compound",
    "Crop",
    "CutOut",
    "DotsPart",
    "DragPart",
    "DrawingPart",
    "DroppedColour",
    "FixturePart",
    "Flood",
    "Ground",
    "Hint",
    "JobSpec",
    "Lasso",
    "LensPart",
    "LetteringPart",
    "LevelPart",
    "Look",
    "MachinePart",
    "MarkPart",
    "MarkingPart",
    "MaskPart",
    "Mix",
    "MountPart",
    "OperationKind",
    "OperationPart",
    "Part",
    "PlacePart",
    "PocketPart",
    "Point",
    "Polarity",
    "RecipePart",
    "ReliefPart",
    "ReproductionPart",
    "RetouchPart",
    "Scan",
    "Shade",
    "SidePart",
    "SizePart",
    "Stroke",
    "SubstratePart",
    "TextLine",
    "TonePart",
    "ToolPart",
    "TracePart",
    "WayName",
    "ZonePart",
    "explain",
    "interpolate_specs",
    "sentence",
    "values_of",
]
