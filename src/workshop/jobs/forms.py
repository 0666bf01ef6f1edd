"""One form a station; they read and check, and write nothing."""

from typing import Any

from django import forms

from workshop.jobs import choices
from workshop.shelf.models import Blank, Machine, Recipe, Substrate
from workshop.shell.quantity import QuantityField


class StationForm(forms.Form):
    """A form over one part of a job.

    Parameters
    ----------
    data : mapping or None
        What was posted.
    initial : dict
        The job's present values.
    """

    use_required_attribute = False

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        kwargs.setdefault("label_suffix", "")
        kwargs.setdefault("auto_id", "f-%s")
        super().__init__(*args, **kwargs)

    def changes(self) -> dict[str, Any]:
        """Return the clean values of the fields that were changed."""
        return {name: self.cleaned_data[name] for name in self.changed_data}

    def field_of(self, name: str) -> str | None:
        """Return the field that shows a value of the job file, None when none does."""
        for candidate in (name, name.removesuffix("_mm_s"), name.removesuffix("_mm")):
            if candidate in self.fields:
                return candidate
        return None


def _model_choice(model: Any, empty: str, **kwargs: Any) -> forms.ModelChoiceField:
    return forms.ModelChoiceField(
        queryset=model.objects.all(), required=False, empty_label=empty, **kwargs
    )


class ArtworkForm(StationForm):
    """Name, turns, mirror and crop."""

    name = forms.CharField(max_length=200, label="Name of the job")
    customer = forms.CharField(max_length=200, required=False, label="For whom")
    turn = forms.ChoiceField(
        choices=[("", ""), ("left", "left"), ("right", "right")], required=False
    )
    mirror = forms.BooleanField(required=False, label="Mirror left to right")
    lock_ratio = forms.BooleanField(required=False, label="Keep the blank's ratio")
    crop_left = forms.FloatField(min_value=0, max_value=1)
    crop_top = forms.FloatField(min_value=0, max_value=1)
    crop_width = forms.FloatField(min_value=0.001, max_value=1)
    crop_height = forms.FloatField(min_value=0.001, max_value=1)


class BlankForm(StationForm):
    """The blank, what it is made of, and how large and fine the burn is."""

    blank = _model_choice(Blank, "Bare bed", label="Blank")
    substrate = _model_choice(Substrate, "Plain pale wood", label="Substrate")
    width = QuantityField("mm", 2, least=0.1, most=3000, label="Width")
    height = QuantityField("mm", 2, least=0.1, most=3000, label="Height")
    dpi = QuantityField("dpi", 2, least=5.08, most=5080, label="Resolution")
    pitch = QuantityField("mm", 4, least=0.005, most=5, label="Row pitch")
    keep_inside = forms.BooleanField(required=False, label="Keep dots inside the blank")
    fit = forms.BooleanField(required=False)


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

    machine = _model_choice(Machine, "No machine", label="Machine")
    recipe = _model_choice(Recipe, "By hand", label="Recipe")
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


FORMS: dict[str, type[StationForm]] = {
    "artwork": ArtworkForm,
    "blank": BlankForm,
    "tone": ToneForm,
    "dots": DotsForm,
    "burn": BurnForm,
    "place": PlaceForm,
}
"""The stations that change the job."""
