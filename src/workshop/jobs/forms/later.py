"""The forms of the stations after the dots: burn, place."""

from django import forms

from workshop.jobs import choices
from workshop.jobs.forms.base import StationForm, model_choice
from workshop.shelf.models import Machine, Recipe
from workshop.shell.quantity import QuantityField


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
