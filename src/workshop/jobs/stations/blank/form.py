"""The Blank station's form."""

from typing import Any

from django import forms

from workshop.jobs.stations.blank.choices import (
    backing_choices,
    fit_choices,
    follow_choices,
    polarity_choices,
)
from workshop.jobs.stations.form import StationForm, model_choice
from workshop.shelf.models import Blank, Substrate
from workshop.shelf.substrates.choices import side_choices
from workshop.shell.quantity import QuantityField


class BlankForm(StationForm):
    """The blank, what it is made of, how large and fine the burn is, and its side."""

    out_of_sight = frozenset({"centre", "nudge_x", "nudge_y", "restock", "material"})
    riders = frozenset({"ties"})

    blank = model_choice(Blank, "Bare bed", label="Blank")
    substrate = model_choice(Substrate, "Plain pale wood", label="Substrate")
    restock = forms.BooleanField(required=False)
    material = forms.CharField(required=False, max_length=200)
    colour = forms.CharField(required=False, max_length=200, label="Colour")
    backing = forms.ChoiceField(choices=backing_choices, required=False, label="Behind it")
    turned = forms.BooleanField(required=False, label="Grain runs up")
    fit = forms.ChoiceField(choices=fit_choices, label="Size")
    width = QuantityField("mm", 2, least=0.1, most=3000, label="Width")
    height = QuantityField("mm", 2, least=0.1, most=3000, label="Height")
    lock = forms.BooleanField(required=False, label="Keep the ratio")
    bleed = QuantityField("mm", 2, least=0, most=100, label="Bleed")
    offset_x = QuantityField("mm", 2, least=-3000, most=3000, label="Right of middle")
    offset_y = QuantityField("mm", 2, least=-3000, most=3000, label="Above middle")
    centre = forms.BooleanField(required=False)
    nudge_x = forms.FloatField(required=False, min_value=-3000, max_value=3000)
    nudge_y = forms.FloatField(required=False, min_value=-3000, max_value=3000)
    dpi = QuantityField("dpi", 2, least=5.08, most=5080, label="Resolution")
    lines = QuantityField("", 3, least=0.2, most=200, label="Lines a mm")
    pitch = QuantityField("mm", 4, least=0.005, most=5, label="Row pitch")
    dot_pitch = QuantityField(
        "mm", 4, least=0.005, most=5, required=False, label="From dot to dot"
    )
    ties = forms.ChoiceField(choices=[("size", "size"), ("pitch", "pitch")], required=False)
    keep_inside = forms.BooleanField(required=False, label="Keep dots inside the blank")
    seen_from = forms.ChoiceField(choices=side_choices, label="Worked")
    printing_plate = forms.BooleanField(required=False, label="Printing plate")
    side_mirror = forms.ChoiceField(choices=follow_choices, label="Mirrored")
    side_invert = forms.ChoiceField(choices=follow_choices, label="Inverted")
    side_polarity = forms.ChoiceField(choices=polarity_choices, label="The beam")

    def clean(self) -> dict[str, Any]:
        """Leave what scripts did not fill."""
        data: dict[str, Any] = super().clean() or {}
        data["ties"] = data.get("ties") or "size"
        return data

    def changes(self) -> dict[str, Any]:
        """Return what was changed; how size and pitch are tied is always told."""
        changes = super().changes()
        tied = {"ties": self.cleaned_data["ties"]} if changes else {}
        return {**changes, **tied}
