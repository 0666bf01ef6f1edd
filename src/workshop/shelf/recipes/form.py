"""Forms of recipes: one recipe, the list's filter, an import."""

from django import forms

from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shelf.recipes import choices
from workshop.shelf.shelf_form import ShelfForm
from workshop.shell.names import NameField
from workshop.shell.quantity import QuantityField


class RecipeForm(ShelfForm):
    """A recipe; saving makes a new version."""

    model = Recipe
    thing = "recipe"
    unique = False

    name = NameField()
    machine = forms.ModelChoiceField(queryset=Machine.objects.all(), label="Machine")
    substrate = forms.ModelChoiceField(queryset=Substrate.objects.all(), label="Substrate")
    lens = forms.CharField(required=False, max_length=100, label="Lens")
    kind = forms.ChoiceField(choices=choices.operation_choices, label="For")
    speed_mm_s = QuantityField("mm/s", 2, least=0.1, most=20000, label="Speed")
    power = QuantityField("%", 1, least=0, most=100, label="Power")
    lowest_power = QuantityField("%", 1, least=0, most=100, label="Lowest power")
    passes = forms.IntegerField(min_value=1, max_value=50, label="Passes")
    pitch_mm = QuantityField("mm", 4, least=0.005, most=5, label="Row pitch")
    per_pass_mm = QuantityField("mm", 3, least=0, most=20, label="A pass carves")
    method = forms.ChoiceField(choices=choices.method_choices, label="Dots")
    both_ways = forms.BooleanField(required=False, label="Rows both ways")
    angle_deg = QuantityField("°", 1, least=-180, most=180, label="Rows at")
    cross = forms.BooleanField(required=False, label="Crossed by a second pass")
    air = forms.BooleanField(required=False, label="Air")
    focus_mm = QuantityField("mm", 2, least=-100, most=100, label="Focus above the surface")
    pulse_khz = QuantityField("", 1, least=0, most=10000, label="Pulses", says="kHz")
    pulse_ns = QuantityField("", 0, least=0, most=100000, label="Pulse width", says="ns")
    cleaning = forms.CharField(required=False, max_length=1000, label="Cleaning")
    coating = forms.CharField(required=False, max_length=1000, label="Coating")
    confidence = forms.ChoiceField(choices=choices.confidence_choices, label="Confidence")
    rating = forms.TypedChoiceField(
        choices=choices.rating_choices,
        coerce=int,
        label="Rated",
        required=False,
        empty_value="0",
    )
    note = forms.CharField(required=False, max_length=1000, label="Note")
    why = forms.CharField(required=False, max_length=300, label="Why it changed")


def _named(name: str) -> forms.Select:
    return forms.Select(attrs={"aria-label": name})


class RecipeFilter(forms.Form):
    """What narrows the list of recipes."""

    find = forms.CharField(required=False, max_length=100)
    substrate = forms.ModelChoiceField(
        queryset=Substrate.objects.all(),
        required=False,
        empty_label="Every substrate",
        widget=_named("Substrate"),
    )
    machine = forms.ModelChoiceField(
        queryset=Machine.objects.all(),
        required=False,
        empty_label="Every machine",
        widget=_named("Machine"),
    )
    kind = forms.ChoiceField(
        choices=choices.any_operation_choices, required=False, widget=_named("Operation")
    )
    favourites = forms.BooleanField(required=False)


class ImportForm(forms.Form):
    """A file of recipes, or the text of one that was looked at."""

    file = forms.FileField(required=False, label="CSV or JSON")
    held = forms.CharField(required=False, max_length=64)
