"""The Tone station's form."""

from typing import Any

from django import forms

from workshop.jobs.stations.form import StationForm, hidden
from workshop.jobs.stations.tone.choices import blend_choices, tone_groups
from workshop.shell.quantity import QuantityField

_FOLD_OF = {
    "exposure": "light",
    "offset": "light",
    "curve": "curve",
    "shadows": "depths",
    "highlights": "depths",
    "local": "local",
    "denoise": "grain",
    "blur": "grain",
    "sharpen": "sharpen",
    "detail": "detail",
}


def _code(label: str, plain: float) -> QuantityField:
    return QuantityField(
        "", 0, least=0, most=255, label=label, initial=plain, slider=(0, 255, 1)
    )


def _signed(label: str) -> QuantityField:
    return QuantityField(
        "%", 0, least=-100, most=100, label=label, slider=(-100, 100, 1), initial=0
    )


def _share(label: str, most: float = 100, step: float = 1) -> QuantityField:
    return QuantityField(
        "%", 0, least=0, most=most, label=label, slider=(0, min(most, 300), step), initial=0
    )


class ToneForm(StationForm):
    """Everything that changes the tones; each group can be passed over."""

    out_of_sight = frozenset({"auto", "curve", "reset", "shade", "each"})
    fold_of = _FOLD_OF

    on = forms.BooleanField(required=False, label="Tone on")
    curve = hidden()
    reset = hidden()
    auto = hidden()
    each = hidden()
    own = forms.BooleanField(required=False, label="This pocket's own tone")
    shade = forms.IntegerField(required=False)
    input_black = _code("Black", 0)
    gamma = QuantityField(
        "", 2, least=0.1, most=10, label="Mid γ", initial=1, slider=(0.2, 4, 0.02)
    )
    input_white = _code("White", 255)
    output_black = _code("Darkest", 0)
    output_white = _code("Lightest", 255)
    exposure = QuantityField(
        "", 2, least=-5, most=5, label="Exposure", slider=(-3, 3, 0.05), initial=0
    )
    offset = QuantityField(
        "%", 1, least=-50, most=50, label="Offset", slider=(-20, 20, 0.5), initial=0
    )
    brightness = _signed("Brightness")
    contrast = _signed("Contrast")
    shadows = _signed("Shadows")
    highlights = _signed("Highlights")
    local_amount = _share("Local contrast")
    local_mm = QuantityField(
        "mm", 1, least=0.5, most=500, label="Size", initial=10, slider=(1, 60, 1)
    )
    local_limit = QuantityField(
        "", 1, least=1, most=20, label="Limit", initial=2, slider=(1, 8, 0.1)
    )
    denoise = _share("Denoise")
    blur_dots = QuantityField(
        "dots", 1, least=0, most=200, label="Blur", slider=(0, 10, 0.1), initial=0
    )
    sharpen_amount = _share("Sharpen", 500, 5)
    sharpen_dots = QuantityField(
        "dots", 1, least=0.1, most=200, label="Radius", initial=1.5, slider=(0.1, 12, 0.1)
    )
    sharpen_threshold = _code("Threshold", 0)
    detail_opacity = _share("High-pass")
    detail_dots = QuantityField(
        "dots", 1, least=0.1, most=200, label="Radius", initial=4, slider=(0.5, 30, 0.5)
    )
    detail_blend = forms.ChoiceField(choices=blend_choices, label="Blended as")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for group in tone_groups():
            self.fields[f"use_{group}"] = forms.BooleanField(required=False)

    def clean(self) -> dict[str, Any]:
        """Hold the white point above the black point."""
        data: dict[str, Any] = super().clean() or {}
        black, white = data.get("input_black"), data.get("input_white")
        if black is not None and white is not None and white - black < 1:
            at = self.blamed("input_white", "input_black")
            above = f"It must lie above the black point, {black:g}."
            below = f"It must lie below the white point, {white:g}."
            self.add_error(at, above if at == "input_white" else below)
        return data
