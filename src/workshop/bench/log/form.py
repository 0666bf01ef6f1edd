"""How a piece came out, as its operator says it."""

from django import forms

from workshop.bench.models import Run


class CameOutForm(forms.Form):
    """Result, why, notes, and a photo of the piece."""

    result = forms.ChoiceField(
        choices=[("", "not said"), *Run.RESULTS], required=False, label="It came out"
    )
    why = forms.CharField(max_length=200, required=False, label="Why")
    notes = forms.CharField(
        max_length=2000,
        required=False,
        label="Notes",
        widget=forms.Textarea(attrs={"rows": 3}),
    )
    photo = forms.FileField(required=False, label="Photo of the piece")

    def clean(self) -> dict[str, object]:
        """What was spoiled has a reason: that is what is learned from it."""
        data = super().clean() or {}
        if data.get("result") == "spoiled" and not data.get("why"):
            self.add_error(
                "why", "Say why it was spoiled; it is worth more than the piece."
            )
        return data
