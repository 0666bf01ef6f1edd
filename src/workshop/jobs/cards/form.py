"""The form that opens a swatch card."""

from typing import Any

from django import forms

from workshop.jobs.stations.card.choices import card_choices
from workshop.shelf.models import Machine, Recipe, Substrate


class NewCardForm(forms.Form):
    """Which card, for which machine, on what."""

    use_required_attribute = False

    kind = forms.ChoiceField(choices=card_choices, label="Card")
    machine = forms.ModelChoiceField(
        queryset=Machine.objects.all(), required=False, label="Machine"
    )
    substrate = forms.ModelChoiceField(
        queryset=Substrate.objects.all(), required=False, label="Substrate"
    )
    new_substrate = forms.CharField(
        required=False, max_length=100, label="or a new substrate, called", strip=True
    )
    recipe = forms.ModelChoiceField(
        queryset=Recipe.objects.all(),
        required=False,
        empty_label="None",
        label="Round a recipe",
    )

    def clean(self) -> dict[str, Any]:
        """Let a recipe say machine and substrate; without one both are needed.

        A new material's name goes before what is chosen of those known.
        """
        data: dict[str, Any] = super().clean() or {}
        recipe, name = data.get("recipe"), " ".join(data.get("new_substrate", "").split())
        if recipe and name:
            self.add_error(
                "new_substrate", "A recipe has its own; leave one of the two out."
            )
        if recipe:
            data["machine"], data["substrate"] = recipe.machine, recipe.substrate
        elif name:
            known = Substrate.objects.filter(name__iexact=name).first()
            data["substrate"] = known or Substrate(name=name)
        for name in ("machine", "substrate"):
            if not data.get(name):
                self.add_error(name, f"Choose the {name} it is burned on.")
        return data
