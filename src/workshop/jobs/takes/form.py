"""Forms about takes."""

from django import forms

from workshop.jobs.takes.strip import StripPart
from workshop.shell.quantity import QuantityField


class BetweenForm(forms.Form):
    """How far a new take lies from the first of two."""

    use_required_attribute = False
    share = QuantityField(
        "%", 0, least=0, most=100, label="Share", slider=(0, 100, 5), initial=50
    )


class StripForm(forms.Form):
    """Which part of each take a strip burns; its middle is where the loupe lies."""

    use_required_attribute = False
    width = QuantityField("mm", 1, least=1, most=200, label="Wide", initial=20, step=1)
    height = QuantityField("mm", 1, least=1, most=200, label="High", initial=15, step=1)
    x = forms.FloatField(required=False, min_value=-3000, max_value=3000)
    y = forms.FloatField(required=False, min_value=-3000, max_value=3000)

    def part(self) -> StripPart:
        """Return the part that was asked for."""
        data = self.cleaned_data
        return StripPart(data["x"] or 0.0, data["y"] or 0.0, data["width"], data["height"])
