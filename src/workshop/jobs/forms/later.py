"""The forms of the stations after the picture: tone, dots, burn, place."""

from typing import Any

from django import forms

from workshop.jobs import choices
from workshop.jobs.forms.base import StationForm, model_choice
from workshop.shelf.models import Machine, Recipe
from workshop.shell.quantity import QuantityField


class ToneForm(StationForm):
    """Levels, brightness, contrast and sharpening."""

    on = forms.BooleanField(required=False, label="Tone on")
    input_black = QuantityField("", 0, least=0, most=254, label="Black")
    gamma = QuantityField("", 2, least=0.1, most=10, label="Mid γ")
    input_white = QuantityField("", 0, least=1, most=255, label="White")
    output_black = QuantityField("", 0, least=0, most=255, label="Darkest")
    output_white = QuantityField("", 0, least=0, most=255, label="Lightest")
    brightness = QuantityField(
        "%", 0, least=-100, most=100, label="Brightness", slider=(-100, 100, 1)
    )
    contrast = QuantityField(
        "%", 0, least=-100, most=100, label="Contrast", slider=(-100, 100, 1)
    )
    sharpen_amount = QuantityField(
        "%", 0, least=0, most=500, label="Sharpen", slider=(0, 300, 5)
    )
    sharpen_dots = QuantityField(
        "", 1, least=0.1, most=50, label="Radius", slider=(0.5, 10, 0.1)
    )
    sharpen_threshold = QuantityField(
        "", 0, least=0, most=255, label="Threshold", slider=(0, 40, 1)
    )

    def clean(self) -> dict[str, Any]:
        """Hold the white point above the black point."""
        data: dict[str, Any] = super().clean() or {}
        black, white = data.get("input_black"), data.get("input_white")
        if black is not None and white is not None and white - black < 1:
            self.add_error("input_white", f"It must lie above the black point, {black:g}.")
        return data


class DotsForm(StationForm):
    """How tone becomes dots."""

    method = forms.ChoiceField(choices=choices.dot_method_choices, label="Method")
    scan = forms.ChoiceField(choices=choices.scan_choices, label="Scan")
    level = QuantityField("%", 0, least=0, most=100, label="Level", slider=(0, 100, 1))


class BurnForm(StationForm):
    """Machine, recipe, speed and power."""

    machine = model_choice(Machine, "No machine", label="Machine")
    recipe = model_choice(Recipe, "By hand", label="Recipe")
    speed = QuantityField("mm/s", 2, least=0.1, most=20000, label="Speed")
    power = QuantityField("%", 1, least=0, most=100, label="Power", slider=(0, 100, 0.5))
    passes = forms.IntegerField(min_value=1, max_value=50, label="Passes")
    direction = forms.ChoiceField(
        choices=[("both", "Both ways"), ("one", "One way")], label="Rows"
    )
    again = forms.BooleanField(required=False)


class PlaceForm(StationForm):
    """Where the piece lies."""

    anchor = forms.ChoiceField(choices=choices.anchor_choices, label="Measured at")
    x = QuantityField("mm", 3, least=-3000, most=3000, label="From left")
    y = QuantityField("mm", 3, least=-3000, most=3000, label="From front")
    centre = forms.BooleanField(required=False)
