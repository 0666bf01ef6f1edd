"""A substrate's form: its look, its answer, and how it is to be handled."""

import re

from django import forms

from workshop.shelf.models import Substrate
from workshop.shelf.shelf_form import ShelfForm
from workshop.shelf.substrates import choices
from workshop.shell.names import NameField
from workshop.shell.quantity import QuantityField

_WAVELENGTH = re.compile(r"\d\s*(µm|μm|um|nm)\b", re.IGNORECASE)


def _colour(label: str) -> forms.RegexField:
    return forms.RegexField(r"^#[0-9a-f]{6}$", label=label)


def _care(label: str) -> forms.CharField:
    return forms.CharField(required=False, max_length=1000, label=label)


class SubstrateForm(ShelfForm):
    """A substrate."""

    model = Substrate
    thing = "substrate"

    name = NameField()
    polarity = forms.ChoiceField(choices=choices.polarity_choices, label="The beam")
    ground = _colour("Untouched")
    mark = _colour("Burned")
    scorch = _colour("Burned too long")
    response = QuantityField("", 2, least=0.05, most=20, label="How fast it marks")
    onset = QuantityField("", 2, least=0, most=0.9, label="Marks from", says="of dose")
    scorch_from = QuantityField(
        "", 2, least=0, most=20, label="Scorches from", says="× dose"
    )
    uneven = QuantityField("%", 0, least=0, most=60, label="Soft parts deeper by")
    texture = forms.ChoiceField(choices=choices.texture_choices, label="Surface")
    texture_strength = QuantityField("%", 0, least=0, most=100, label="Strength")
    clear = forms.BooleanField(required=False, label="One sees through it")
    worked_from = forms.ChoiceField(choices=choices.side_choices, label="It is worked")
    hazard = forms.ChoiceField(choices=choices.hazard_choices, label="Hazard")
    cleaning = _care("Cleaning")
    coating = _care("Coating")
    underlay = _care("What lies under it")
    fumes = _care("Fumes")
    eyes = _care("Eyes, besides goggles")
    note = forms.CharField(required=False, max_length=1000, label="Note")

    def clean_eyes(self) -> str:
        """Refuse a wavelength: goggles follow the machine, whatever it burns."""
        text: str = self.cleaned_data["eyes"]
        if _WAVELENGTH.search(text):
            raise forms.ValidationError(
                "Goggles follow the machine's wavelength; say here only what the "
                "material adds, such as that it reflects."
            )
        return text
