"""The form of a helper mark on the bed."""

from django import forms

from workshop.jobs.stations.form import StationForm
from workshop.shell.quantity import QuantityField


class MarkForm(StationForm):
    """What it is, and where."""

    kind = forms.ChoiceField(
        choices=[
            ("upright", "Line into the depth"),
            ("level", "Line across"),
            ("cross", "Cross"),
            ("box", "Box"),
        ],
        label="Mark",
    )
    name = forms.CharField(required=False, max_length=40, label="Called")
    x_mm = QuantityField("mm", 2, least=-3000, most=3000, label="From left")
    y_mm = QuantityField("mm", 2, least=-3000, most=3000, label="From front")
    width_mm = QuantityField("mm", 2, least=0.1, most=3000, label="Box's width")
    height_mm = QuantityField("mm", 2, least=0.1, most=3000, label="Box's depth")
