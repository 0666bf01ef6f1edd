"""Fields of the ways of marking besides dots."""

from django import forms

from engraving.jobspec import ReliefPart
from engraving.pipeline.stages.ways.registry import WAYS
from workshop.shell.choices import Choices, labelled
from workshop.shell.quantity import QuantityField


def way_choices() -> Choices:
    """Return the ways a picture can be marked."""
    return [(name, one.label) for name, one in WAYS.items()]


def how_choices() -> Choices:
    """Return what a pass of a relief may do."""
    return labelled(
        ReliefPart, "how", {"passes": "Whole ones", "power": "By power", "both": "Both"}
    )


def focus_choices() -> Choices:
    """Return where the focus of a relief may lie."""
    return labelled(
        ReliefPart,
        "focus",
        {"surface": "On the surface", "middle": "Mid-depth", "follow": "Follows"},
    )


def way_fields() -> dict[str, forms.Field]:
    """Return fresh fields of all ways."""
    return {
        "way": forms.ChoiceField(choices=way_choices, label="Marked by"),
        **_relief_fields(),
        **_carved_fields(),
        "drag_crossed": forms.BooleanField(required=False, label="Crossed"),
        "drag_least": QuantityField(
            "mm", 2, least=0, most=50, label="Shortest scratch", initial=0, step=0.1
        ),
        "drag_ground": QuantityField(
            "%", 1, least=0, most=50, label="Ground under", initial=2, step=0.5
        ),
    }


def _relief_fields() -> dict[str, forms.Field]:
    return {
        "relief_depth": QuantityField(
            "mm", 2, least=0.01, most=200, label="Depth", slider=(0.1, 10, 0.1), initial=2
        ),
        "relief_pass": QuantityField(
            "mm", 3, least=0.001, most=20, label="Taken by a pass", slider=(0.02, 1, 0.01),
            initial=0.2,
        ),
        "relief_how": forms.ChoiceField(choices=how_choices, label="Passes"),
        "relief_spread": forms.BooleanField(required=False, label="No steps on slopes"),
        "relief_invert": forms.BooleanField(
            required=False, label="A mould: white lies deepest"
        ),
        "relief_gamma": QuantityField(
            "", 2, least=0.2, most=5, label="Curve γ", slider=(0.3, 3, 0.05), initial=1
        ),
        "relief_flat": QuantityField(
            "%", 0, least=0, most=100, label="Flat ground", slider=(0, 60, 1), initial=0
        ),
        "relief_smooth": QuantityField(
            "mm", 2, least=0, most=20, label="Smoothed by", slider=(0, 2, 0.05), initial=0
        ),
        "relief_floor": QuantityField(
            "mm", 2, least=0, most=200, label="Nothing deeper than", initial=0, step=0.1
        ),
        "relief_wall": QuantityField(
            "°", 0, least=0, most=60, label="Walls lean by", initial=0, step=1
        ),
        "relief_rim": QuantityField(
            "mm", 2, least=0, most=200, label="Rim kept", initial=0, step=0.5
        ),
        "relief_focus": forms.ChoiceField(choices=focus_choices, label="Focus"),
        "relief_every": forms.IntegerField(
            min_value=1, max_value=500, label="Lowered every n passes"
        ),
        "relief_clean": forms.IntegerField(
            min_value=0, max_value=500, label="Cleaned every n passes"
        ),
        "relief_clean_power": QuantityField(
            "%", 0, least=0, most=100, label="Cleaning power", initial=10, step=1
        ),
        "relief_clean_speed": QuantityField(
            "mm/s", 0, least=0.1, most=20000, label="Cleaning speed", initial=300, step=10
        ),
    }  # fmt: skip


def _carved_fields() -> dict[str, forms.Field]:
    return {
        "tool_angle": QuantityField(
            "°", 0, least=5, most=170, label="V-tool", initial=90, step=5
        ),
        "tool_tip": QuantityField(
            "mm", 2, least=0, most=20, label="Flat tip", initial=0, step=0.05
        ),
        "tool_across": QuantityField(
            "mm", 1, least=0.1, most=100, label="Cone ends at", initial=12, step=1
        ),
        "carve_deepest": QuantityField(
            "mm", 2, least=0.01, most=100, label="Deepest", slider=(0.1, 5, 0.05),
            initial=1.4,
        ),
        "carve_least": QuantityField(
            "mm", 2, least=0, most=50, label="Narrowest line", slider=(0, 2, 0.05),
            initial=0.15,
        ),
        "carve_ramp": QuantityField(
            "mm", 1, least=0, most=50, label="Way down into a line", initial=1, step=0.5
        ),
        "carve_set_off": forms.BooleanField(
            required=False, label="Every other row set off by half"
        ),
        "carve_uneven": QuantityField(
            "mm", 2, least=0, most=20, label="Bed uneven by", initial=0, step=0.05
        ),
        "carve_level": forms.CharField(
            required=False, max_length=20_000, label="Heights of the bed, mm"
        ),
        "carve_level_x": QuantityField(
            "mm", 1, least=-3000, most=3000, label="First one at X", initial=0
        ),
        "carve_level_y": QuantityField(
            "mm", 1, least=-3000, most=3000, label="At Y", initial=0
        ),
        "carve_level_step": QuantityField(
            "mm", 1, least=1, most=3000, label="Steps of", initial=50
        ),
        "carve_most_uneven": QuantityField(
            "%", 0, least=0, most=500, label="Bearable change of width", initial=15, step=1
        ),
    }  # fmt: skip
