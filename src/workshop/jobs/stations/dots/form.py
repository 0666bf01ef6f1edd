"""The Dots station's form."""

from collections.abc import Iterator
from typing import Any

from django import forms
from django.forms import BoundField

from workshop.jobs.stations.dots.choices import (
    dot_method_choices,
    dot_methods,
    family_choices,
    matrix_choices,
    method_settings,
    reproduction_choices,
    run_choices,
    scan_choices,
)
from workshop.jobs.stations.dots.way_form import way_fields
from workshop.jobs.stations.form import StationForm
from workshop.shell.quantity import QuantityField

_SHOWN_AS = {"ruling_cm": ("ruling_cm", "ruling_inch", "ruling_mm")}
_FOLD_OF = {
    "runs": "beam", "least_run_mm": "beam", "relief_gamma": "depth", "relief_flat": "depth",
    "relief_smooth": "depth", "relief_floor": "depth", "relief_wall": "depth",
    "relief_rim": "depth", "relief_focus": "focus", "relief_every": "focus",
    "relief_clean": "focus", "carve_ramp": "tool", "carve_uneven": "tool",
    "carve_most_uneven": "tool",
}  # fmt: skip


def _mark(label: str) -> QuantityField:
    return QuantityField("mm", 2, least=0, most=50, label=label, initial=0, step=0.05)


class DotsForm(StationForm):
    """How tone becomes dots; which fields are in sight follows the method."""

    out_of_sight = frozenset({"choose"})
    opens = frozenset({"mode"})
    fold_of = _FOLD_OF

    family = forms.ChoiceField(choices=family_choices, label="Kind")
    method = forms.ChoiceField(choices=dot_method_choices, label="Method")
    choose = forms.CharField(required=False, max_length=2000)
    scan = forms.ChoiceField(choices=scan_choices, label="Scan")
    noise = QuantityField(
        "%", 0, least=0, most=50, label="Noise", slider=(0, 30, 1), initial=0
    )
    edges = QuantityField(
        "%", 0, least=0, most=300, label="Edges", slider=(0, 200, 5), initial=0
    )
    run_in = forms.BooleanField(required=False, label="Dots from the first row on")
    level = QuantityField(
        "%", 0, least=0, most=100, label="Level", slider=(0, 100, 1), initial=50
    )
    level_auto = forms.BooleanField(required=False, label="By the picture")
    matrix = forms.ChoiceField(choices=matrix_choices, label="Cell")
    ruling_cm = QuantityField("", 2, least=0.2, most=200, label="Lines a cm", step=0.5)
    ruling_inch = QuantityField("", 1, least=0.508, most=508, label="An inch", step=1)
    ruling_mm = QuantityField("mm", 3, least=0.05, most=50, label="Apart", step=0.05)
    angle_deg = QuantityField(
        "°", 1, least=-180, most=180, label="Angle", slider=(-90, 90, 1), initial=45
    )
    least_mark_mm = _mark("Smallest mark")
    most_mark_mm = _mark("Largest mark")
    every = forms.IntegerField(min_value=1, max_value=50, label="Each n-th line")
    wavelength_mm = QuantityField(
        "mm", 1, least=0.2, most=500, label="Wavelength", slider=(1, 40, 0.5), initial=6
    )
    swing_mm = QuantityField(
        "mm", 2, least=0, most=50, label="Swing", slider=(0, 5, 0.1), initial=1
    )
    floor = QuantityField(
        "%", 0, least=0, most=100, label="Least power", slider=(0, 100, 1), initial=0
    )
    ceiling = QuantityField(
        "%", 0, least=0, most=100, label="Most power", slider=(0, 100, 1), initial=100
    )
    steps = forms.IntegerField(min_value=2, max_value=256, label="Steps")
    mode = forms.ChoiceField(choices=reproduction_choices, label="Tones")
    patches = forms.CharField(required=False, max_length=2000, label="Patches")
    runs = forms.ChoiceField(choices=run_choices, label="Short runs")
    least_run_mm = QuantityField(
        "mm", 3, least=0, most=10, label="Shortest run", initial=0, step=0.01
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields.update(way_fields())

    def reads(self) -> set[str]:
        """Return the names of the fields that the chosen method reads."""
        read = method_settings(str(self["method"].value()))
        return {shown for name in read for shown in _SHOWN_AS.get(name, (name,))}

    def unread(self) -> Iterator[BoundField]:
        """Yield the fields of other methods, which keep their values unseen."""
        read, every = self.reads(), {m for c in dot_methods() for m in c.settings}
        of_methods = {shown for name in every for shown in _SHOWN_AS.get(name, (name,))}
        for field in self:
            if field.name in of_methods - read:
                yield field

    def faults(self) -> list[str]:
        """Return faults of fields in no sight, of other methods' too."""
        hidden = [str(text) for field in self.unread() for text in field.errors]
        return [*super().faults(), *hidden]
