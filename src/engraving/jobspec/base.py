"""What every part of a job is made of."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

LARGEST_MM = 3000.0
"""No piece is wider; a slip of a decimal point is caught here."""

Percent = Annotated[float, Field(ge=0, le=100)]
SignedPercent = Annotated[float, Field(ge=-100, le=100)]
Length = Annotated[float, Field(gt=0, le=LARGEST_MM)]
Offset = Annotated[float, Field(ge=-LARGEST_MM, le=LARGEST_MM)]
Code = Annotated[float, Field(ge=0, le=255)]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
Name = Annotated[str, Field(max_length=200)]


class Part(BaseModel):
    """A frozen part of a job; unknown keys and non-finite numbers are refused."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
