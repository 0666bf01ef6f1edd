"""The form of a swatch card."""

from django import forms

from workshop.jobs.stations.card.choices import card_choices
from workshop.jobs.stations.dots.choices import dot_method_choices
from workshop.jobs.stations.form import StationForm
from workshop.shell.names import NameField
from workshop.shell.quantity import QuantityField

_EVEN = [("steps", "steps"), ("times", "factors")]


def _value(label: str) -> QuantityField:
    return QuantityField("", 3, least=-1e5, most=1e5, label=label)


class CardForm(StationForm):
    """What is on a swatch card."""

    name = NameField(max_length=200)
    customer = forms.CharField(required=False, max_length=200, label="For whom")
    kind = forms.ChoiceField(choices=card_choices, label="Card")
    columns_first = _value("from")
    columns_last = _value("to")
    columns_count = forms.IntegerField(min_value=1, max_value=24, label="in")
    columns_even = forms.ChoiceField(choices=_EVEN, label="apart by")
    rows_first = _value("from")
    rows_last = _value("to")
    rows_count = forms.IntegerField(min_value=1, max_value=24, label="in")
    rows_even = forms.ChoiceField(choices=_EVEN, label="apart by")
    methods = forms.MultipleChoiceField(
        choices=dot_method_choices,
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
