"""Where a file of G-code is to lie, and what its full power is."""

from django import forms

from workshop.shelf.models import Machine
from workshop.shell.quantity import QuantityField


class PlacingForm(forms.Form):
    """Machine, place of the front left corner, and full power."""

    use_required_attribute = False

    machine = forms.ModelChoiceField(
        queryset=Machine.objects.all(), required=False, empty_label=None, label="Machine"
    )
    x_mm = QuantityField("mm", 2, label="From the left")
    y_mm = QuantityField("mm", 2, label="From the front")
    full_power = forms.IntegerField(
        min_value=1, max_value=1_000_000, label="Full power in the file is S"
    )
