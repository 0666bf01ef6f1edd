"""The form of one operation."""

from typing import Any

from django import forms

from workshop.jobs.stations.form import StationForm, model_choice
from workshop.jobs.stations.outlines.choices import outline_choices, outline_kind_choices
from workshop.shelf.models import Recipe
from workshop.shell.quantity import QuantityField


class OperationForm(StationForm):
    """An outline that is hatched, scored or cut: its shape, its line, its strength."""

    fold_of = {
        "part_": "traced",
        "scale_": "laid",
        "turn_": "laid",
        "move_": "laid",
        "frame_": "laid",
        "smooth_": "smooth",
        "least_": "smooth",
        "trace_": "smooth",
        "kerf_": "cuts",
        "lead_": "cuts",
        "bridge": "cuts",
        "hole_": "cuts",
        "speed_": "strength",
        "power": "strength",
        "passes": "strength",
        "focus_": "strength",
        "name": "strength",
    }

    kind = forms.ChoiceField(choices=outline_kind_choices, label="It is")
    name = forms.CharField(required=False, max_length=60, label="Called")
    shape = forms.ChoiceField(choices=outline_choices, label="Outline of")
    recipe = model_choice(Recipe, "No recipe", label="Take a recipe")
    offset_mm = QuantityField("mm", 2, least=-100, most=200, label="Outward by")
    corner_mm = QuantityField("mm", 2, least=0, most=200, label="Corners")
    kerf_mm = QuantityField("mm", 3, least=0, most=5, label="Kerf")
    lead_in_mm = QuantityField("mm", 2, least=0, most=20, label="Lead-in")
    bridges = forms.IntegerField(min_value=0, max_value=40, label="Bridges")
    bridge_mm = QuantityField("mm", 2, least=0.05, most=20, label="Bridge")
    bridge_shift = QuantityField("%", 1, least=-50, most=50, label="Moved on")
    hole_mm = QuantityField("mm", 2, least=0, most=100, label="Hole to hang")
    hole_inset_mm = QuantityField("mm", 2, least=0, most=500, label="Below the edge")
    spacing_mm = QuantityField("mm", 3, least=0.01, most=50, label="Lines apart")
    hatch_deg = QuantityField("°", 1, least=-180, most=180, label="Angle")
    cross = forms.BooleanField(required=False, label="Crossed")
    join_mm = QuantityField("mm", 3, least=0, most=5, label="Close ends within")
    lightest = QuantityField(
        "%", 1, least=0, most=100, label="Tones up to", slider=(0, 100, 1)
    )
    darkest = QuantityField("%", 1, least=0, most=100, label="Down to", slider=(0, 100, 1))
    smooth_mm = QuantityField("mm", 2, least=0, most=20, label="Smooth by")
    least_mm = QuantityField("mm", 2, least=0, most=100, label="Smallest kept")
    trace_corner = QuantityField("°", 0, least=0, most=180, label="Corners from")
    part_left = QuantityField("mm", 1, least=0, most=3000, label="Part from left")
    part_top = QuantityField("mm", 1, least=0, most=3000, label="From its top")
    part_width = QuantityField("mm", 1, least=0.1, most=3000, label="Part width")
    part_height = QuantityField("mm", 1, least=0.1, most=3000, label="Part height")
    scale_x = QuantityField("%", 2, least=0.1, most=10000, label="Width")
    scale_y = QuantityField("%", 2, least=0.1, most=10000, label="Height")
    lock_scale = forms.BooleanField(required=False, label="Keep the ratio")
    turn_deg = QuantityField("°", 2, least=-360, most=360, label="Turned")
    move_x_mm = QuantityField("mm", 2, least=-3000, most=3000, label="To the right")
    move_y_mm = QuantityField("mm", 2, least=-3000, most=3000, label="Away")
    inverted = forms.BooleanField(required=False, label="What lies around it instead")
    frame_mm = QuantityField("mm", 2, least=0, most=500, label="Box wider by")
    deepest_mm = QuantityField("mm", 2, least=0.01, most=100, label="Deepest")
    tool_deg = QuantityField("°", 0, least=5, most=170, label="V-tool")
    speed_mm_s = QuantityField("mm/s", 2, least=0.1, most=20000, label="Speed")
    power = QuantityField("%", 1, least=0, most=100, label="Power")
    passes = forms.IntegerField(min_value=1, max_value=50, label="Passes")
    air = forms.BooleanField(required=False, label="Air")
    focus_mm = QuantityField("mm", 2, least=-100, most=100, label="Focus above")

    def __init__(self, *args: Any, recipes: Any = None, **kwargs: Any) -> None:
        kwargs.setdefault("auto_id", "op-%s")
        super().__init__(*args, **kwargs)
        if recipes is not None:
            self.fields["recipe"].queryset = recipes  # type: ignore[attr-defined]
