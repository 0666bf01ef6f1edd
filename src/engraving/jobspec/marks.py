"""Helper marks on the bed, which are never burned."""

from typing import Literal

from pydantic import Field

from engraving.jobspec.base import Name, Offset, Part


class MarkPart(Part):
    """A line across the bed, a line into its depth, a cross, or a box.

    ``x_mm`` and ``y_mm`` are measured from the bed's front left corner; of a
    box they are its corner there.
    """

    kind: Literal["upright", "level", "cross", "box"] = "cross"
    name: Name = ""
    x_mm: Offset = 0.0
    y_mm: Offset = 0.0
    width_mm: float = Field(50.0, gt=0, le=3000)
    height_mm: float = Field(50.0, gt=0, le=3000)
