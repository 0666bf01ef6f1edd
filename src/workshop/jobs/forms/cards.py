"""Forms of swatch cards: which to open, and the station that says what is on one."""

from typing import Any

from django import forms

from workshop.jobs import choices
from workshop.jobs.forms.base import StationForm
from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shell.names import NameField
from workshop.shell.quantity import QuantityField

_EVEN = [("steps", "steps"), ("times", "factors")]


def _value(label: str) -> QuantityField:
    return QuantityField("", 3, least=-1e5, most=1e5, label=label)


class NewCardForm(forms.Form):
    """Which card, for which machine, on what."""

    use_required_attribute = False

    kind = forms.ChoiceField(choices=choices.card_choices, label="Card")
    machine = forms.ModelChoiceField(
        queryset=Machine.objects.all(), required=False, label="Machine"
    )
    substrate = forms.ModelChoiceField(
        queryset=Substrate.objects.all(), required=False, label="Substrate"
    )
    recipe = forms.ModelChoiceField(
        queryset=Recipe.objects.all(),
        required=False,
        empty_label="None",
        label="Round a recipe",
    )

    def clean(self) -> dict[str, Any]:
        """Let a recipe say machine and substrate; without one both are needed."""
        data: dict[str, Any] = super().clean() or {}
        recipe = data.get("recipe")
        if recipe:
            data["machine"], data["substrate"] = recipe.machine, recipe.substrate
        for name in ("machine", "substrate"):
            if not data.get(name):
                self.add_error(name, f"Choose the {name} it is burned on.")
        return data


class CardForm(StationForm):
    """What is on a swatch card."""

    name = NameField(max_length=200)
    customer = forms.CharField(required=False, max_length=200, label="For whom")
    kind = forms.ChoiceField(choices=choices.card_choices, label="Card")
    columns_first = _value("from")
    columns_last = _value("to")
    columns_count = forms.IntegerField(min_value=1, max_value=24, label="in")
    columns_even = forms.ChoiceField(choices=_EVEN, label="apart by")
    rows_first = _value("from")
    rows_last = _value("to")
    rows_count = forms.IntegerField(min_value=1, max_value=24, label="in")
    rows_even = forms.ChoiceField(choices=_EVEN, label="apart by")
    methods = forms.MultipleChoiceField(
        choices=choices.dot_method_choices,
        required=False,
        label="Methods",
        widget=forms.CheckboxSelectMultiple,
    )
    cell = QuantityField("mm", 1, least=1, most=60, label="Cell")
    gap = QuantityField("mm", 1, least=0.2, most=30, label="Gap")
    title = forms.CharField(required=False, max_length=60, label="Title")
    day = forms.CharField(required=False, max_length=40, label="Date")
    label_speed = QuantityField("mm/s", 1, least=0.1, most=20000, label="Letters at")
    label_power = QuantityField("%", 1, least=0, most=100, label="and")
    tilted = QuantityField("mm", 1, least=0, most=200, label="Board rises by")
