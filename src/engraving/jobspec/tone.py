"""How a picture's tones are changed before dots are made."""

from collections.abc import Mapping
from itertools import pairwise
from types import MappingProxyType
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from engraving.jobspec.base import Code, Part, Percent, SignedPercent

MOST_POINTS = 16
MOST_SHADES = 12

Radius = Annotated[float, Field(ge=0.1, le=200)]

GROUPS: Mapping[str, tuple[str, ...]] = MappingProxyType(
    {
        "levels": ("input_black", "gamma", "input_white", "output_black", "output_white"),
        "exposure": ("exposure", "offset"),
        "brightness": ("brightness",),
        "contrast": ("contrast",),
        "shade": ("shade",),
        "curve": ("curve",),
        "depths": ("shadows", "highlights"),
        "local": ("local_amount",),
        "denoise": ("denoise",),
        "blur": ("blur_dots",),
        "sharpen": ("sharpen_amount",),
        "detail": ("detail_opacity",),
    }
)
"""What can be passed over by itself, and the values that then count as untouched."""


class TonePart(Part):
    """How the picture's tones are changed before dots are made.

    Levels are codes 0…255; ``gamma`` above 1 lightens the middle tones
    (``out = in^(1/gamma)``, a convention). ``exposure`` counts doublings of
    light, ``offset`` is added light in per cent of white. The curve runs
    through its points, codes in and out, and is straight without any.
    ``shadows`` and ``highlights`` lighten above 0. Radii are the Gaussian's
    standard deviation in dots (rows, where dots have two sides); the size of
    local contrast is in mm. What ``off`` names is passed over.
    """

    on: bool = True
    off: tuple[str, ...] = ()
    exposure: float = Field(0.0, ge=-5, le=5)
    offset: float = Field(0.0, ge=-50, le=50)
    input_black: Code = 0.0
    gamma: float = Field(1.0, ge=0.1, le=10)
    input_white: Code = 255.0
    output_black: Code = 0.0
    output_white: Code = 255.0
    brightness: SignedPercent = 0.0
    contrast: SignedPercent = 0.0
    shade: int = Field(0, ge=-MOST_SHADES, le=MOST_SHADES)
    curve: tuple[tuple[Code, Code], ...] = Field((), max_length=MOST_POINTS)
    shadows: SignedPercent = 0.0
    highlights: SignedPercent = 0.0
    local_amount: Percent = 0.0
    local_mm: float = Field(10.0, ge=0.5, le=500)
    local_limit: float = Field(2.0, ge=1, le=20)
    denoise: Percent = 0.0
    blur_dots: float = Field(0.0, ge=0, le=200)
    sharpen_amount: float = Field(0.0, ge=0, le=500)
    sharpen_dots: Radius = 1.5
    sharpen_threshold: float = Field(0.0, ge=0, le=255)
    detail_opacity: Percent = 0.0
    detail_dots: Radius = 4.0
    detail_blend: Literal["overlay", "hard-light"] = "overlay"

    @model_validator(mode="after")
    def _black_below_white(self) -> Self:
        if self.input_white - self.input_black < 1:
            raise ValueError("the white point must lie above the black point")
        return self

    @model_validator(mode="after")
    def _curve_runs_right(self) -> Self:
        inputs = [x for x, _ in self.curve]
        if len(inputs) == 1 or any(
            after - before < 1 for before, after in pairwise(inputs)
        ):
            raise ValueError("a curve needs two points or more, each right of the last")
        return self

    @model_validator(mode="after")
    def _passes_over_what_there_is(self) -> Self:
        unknown = set(self.off) - set(GROUPS)
        if unknown:
            raise ValueError(
                f"{min(unknown)!r} cannot be passed over, only {', '.join(GROUPS)}"
            )
        return self

    def effective(self) -> Self:
        """Return the settings that count, what is passed over as if untouched."""
        plain: dict[str, Any] = dict(_PLAIN)
        if not self.on:
            return type(self)()
        names = [name for group in self.off for name in GROUPS[group]]
        return self.model_copy(update={"off": (), **{name: plain[name] for name in names}})


_PLAIN = MappingProxyType(TonePart().model_dump())
