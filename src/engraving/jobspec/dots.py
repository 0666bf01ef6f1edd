"""How tone becomes dots."""

from enum import StrEnum
from typing import Literal

from pydantic import Field

from engraving.jobspec.base import Name, Part, Percent

LARGEST_SCREEN_MM = 50.0


class Scan(StrEnum):
    """The order in which error diffusion visits a row."""

    SERPENTINE = "serpentine"
    ONE_WAY = "one-way"


class DotsPart(Part):
    """How tone becomes dots; `method` is a name of the dot registry.

    Each method reads the values it knows of and passes the others over.

    Error diffusion: ``noise`` moves its threshold at random by so many per
    cent of the range, ``edges`` by so many per cent of each dot's own tone;
    with ``run_in`` it is under way where the picture begins, so that light
    tones have their dots from the first rows on.
    Screens: ``ruling_cm`` lines a cm at ``angle_deg``, counter-clockwise;
    marks narrower than ``least_mark_mm`` or wider than ``most_mark_mm`` (0: no
    bound) are not made; of lines only each ``every``-th. Continuous power:
    `steps` levels between ``floor`` and ``ceiling``, per cent of the recipe's
    power.
    """

    method: Name = "floyd-steinberg"
    scan: Scan = Scan.SERPENTINE
    level: Percent = Field(50.0, description="threshold: darker than this is burned")
    level_auto: bool = Field(default=False, description="threshold: by Otsu's rule")
    noise: float = Field(0.0, ge=0, le=50)
    edges: float = Field(0.0, ge=0, le=300)
    run_in: bool = Field(default=False, description="under way at the picture's edge")
    matrix: Literal[2, 4, 8, 16] = 8
    ruling_cm: float = Field(16.0, ge=0.2, le=200)
    angle_deg: float = Field(45.0, ge=-180, le=180)
    least_mark_mm: float = Field(0.0, ge=0, le=LARGEST_SCREEN_MM)
    most_mark_mm: float = Field(0.0, ge=0, le=LARGEST_SCREEN_MM)
    every: int = Field(1, ge=1, le=50)
    wavelength_mm: float = Field(6.0, ge=0.2, le=500)
    swing_mm: float = Field(1.0, ge=0, le=LARGEST_SCREEN_MM)
    floor: Percent = 0.0
    ceiling: Percent = 100.0
    steps: int = Field(64, ge=2, le=256)
    runs: Literal["keep", "lengthen", "drop"] = Field(
        "keep", description="what becomes of runs too short for the beam"
    )
    least_run_mm: float = Field(0.0, ge=0, le=10, description="0: what the beam can do")
