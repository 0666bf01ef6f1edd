"""How tone becomes dots."""

from enum import StrEnum

from pydantic import Field

from engraving.spec.base import Name, Part, Percent


class Scan(StrEnum):
    """The order in which error diffusion visits a row."""

    SERPENTINE = "serpentine"
    ONE_WAY = "one-way"


class DotsPart(Part):
    """How tone becomes dots; `method` is a name of the dot registry."""

    method: Name = "floyd-steinberg"
    scan: Scan = Scan.SERPENTINE
    level: Percent = Field(50.0, description="threshold: darker than this is burned")
