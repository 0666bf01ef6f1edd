"""The form of the burn station."""

from typing import Any

from django import forms

from workshop.jobs.stations.burn.choices import row_choices
from workshop.jobs.stations.form import StationForm, model_choice
from workshop.shelf.models import Machine, Recipe
from workshop.shell.numbers import finite
from workshop.shell.quantity import QuantityField

_BURN_FOLDS = dict.fromkeys(("rows", "cross", "air", "focus", "pulse"), "rows")


class BurnForm(StationForm):
    """Machine, recipe, speed and power, and how the rows run."""

    out_of_sight = frozenset({"again", "start", "variant"})
    fold_of = _BURN_FOLDS

    machine = model_choice(Machine, "No machine", label="Machine")
    recipe = model_choice(Recipe, "No recipe", label="Recipe")
    speed = QuantityField("mm/s", 2, least=0.1, most=20000, label="Speed")
    power = QuantityField("%", 1, least=0, most=100, label="Power", slider=(0, 100, 0.5))
    passes = forms.IntegerField(min_value=1, max_value=50, label="Passes")
    direction = forms.ChoiceField(
        choices=[("both", "Both ways"), ("one", "One way")], label="Rows"
    )
    rows = forms.ChoiceField(choices=row_choices, label="Run")
    cross = forms.BooleanField(required=False, label="Crossed by a second pass")
    air = forms.BooleanField(required=False, label="Air")
    focus = QuantityField("mm", 2, least=-100, most=100, label="Focus above the surface")
    pulse_khz = QuantityField("", 1, least=0, most=10000, label="Pulses", says="kHz")
    pulse_ns = QuantityField("", 0, least=0, most=100000, label="Pulse width", says="ns")
    plunge = QuantityField("mm/s", 2, least=0.1, most=1000, label="Downward")
    rpm = QuantityField("", 0, least=0, most=200000, label="Spindle", says="1/min")
    warm_up = QuantityField("", 1, least=0, most=120, label="Warm-up", says="s")
    again = forms.BooleanField(required=False)
    start = forms.BooleanField(required=False)
    variant = forms.CharField(required=False, max_length=100)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        fitting = kwargs.get("initial", {}).get("fitting")
        if fitting is not None:
            field = self.fields["recipe"]
            field.queryset = Recipe.objects.filter(pk__in=fitting)  # type: ignore[attr-defined]

    def clean_variant(self) -> tuple[float, float, int, float] | None:
        """Read a row of the table of variants: speed, power, passes, pitch."""
        text = self.cleaned_data["variant"]
        if not text:
            return None
        try:
            speed, power, passes, pitch = (finite(part) for part in text.split())
        except ValueError:
            raise forms.ValidationError("This variant cannot be read.") from None
        return speed, power, int(passes), pitch
