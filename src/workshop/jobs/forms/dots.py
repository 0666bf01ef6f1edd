"""The Dots station's form."""

from django import forms

from workshop.jobs import choices
from workshop.jobs.forms.base import StationForm
from workshop.shell.quantity import QuantityField


class DotsForm(StationForm):
    """How tone becomes dots."""

    method = forms.ChoiceField(choices=choices.dot_method_choices, label="Method")
    scan = forms.ChoiceField(choices=choices.scan_choices, label="Scan")
    level = QuantityField("%", 0, least=0, most=100, label="Level", slider=(0, 100, 1))
