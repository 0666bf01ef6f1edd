"""The form of the place station."""

from typing import Any

from django import forms

from workshop.jobs.stations.form import StationForm
from workshop.jobs.stations.place.choices import (
    anchor_choices,
    gap_choices,
    mount_choices,
    order_choices,
    pocket_picture_choices,
    rotary_choices,
    top_choices,
    zero_choices,
)
from workshop.shell.quantity import QuantityField

_PLACE_FOLDS = dict.fromkeys(
    ("fixture", "columns", "rows", "gap", "order", "picture", "pause", "first", "digits",
     "words", "own"),
    "fixture",
)  # fmt: skip
_POINT_FOLDS = {"point": "points"}
_MOUNT_FOLDS = dict.fromkeys(
    ("steps", "roller", "output", "y_steps", "past", "line"), "drive"
) | {"zone": "zones"}


class PlaceForm(StationForm):
    """Where the piece lies, or the pieces of a fixture."""

    out_of_sight = frozenset(
        {
            "centre",
            "shown",
            "pocket_toggle",
            "point_drop",
            "design_turn",
            "zone_add",
            "zone_drop",
            "pocket_grid",
        }
    )
    fold_of = _PLACE_FOLDS | _MOUNT_FOLDS | _POINT_FOLDS

    anchor = forms.ChoiceField(choices=anchor_choices, label="Measured at")
    x = QuantityField("mm", 3, least=-3000, most=3000, label="From left")
    y = QuantityField("mm", 3, least=-3000, most=3000, label="From front")
    centre = forms.BooleanField(required=False)
    turn = QuantityField("°", 2, least=-180, most=180, label="Turned by", required=False)
    zero = forms.ChoiceField(choices=zero_choices, label="Zero")
    point = forms.CharField(required=False, max_length=60, label="Point")
    point_keep = forms.CharField(required=False, max_length=60, label="Keep this place as")
    point_drop = forms.CharField(required=False, max_length=60)
    fixture = forms.BooleanField(required=False, label="Several blanks in a fixture")
    columns = forms.IntegerField(min_value=1, max_value=100, label="Columns")
    rows = forms.IntegerField(min_value=1, max_value=100, label="Rows")
    gap_x = QuantityField("mm", 2, least=0, most=500, label="Gap across")
    gap_y = QuantityField("mm", 2, least=0, most=500, label="Gap in depth")
    order = forms.ChoiceField(choices=order_choices, label="Burned")
    picture = forms.ChoiceField(choices=pocket_picture_choices, label="Pictures")
    gap = forms.ChoiceField(choices=gap_choices, label="In the gaps")
    pause = forms.BooleanField(required=False, label="Wait between pockets")
    first_number = forms.IntegerField(min_value=0, max_value=10**9, label="First number")
    digits = forms.IntegerField(min_value=1, max_value=9, label="Digits")
    words = forms.CharField(required=False, max_length=100_000, label="Words")
    mount = forms.ChoiceField(choices=mount_choices, label="Mount")
    top = forms.ChoiceField(choices=top_choices, label="Its top lies")
    diameter = QuantityField("mm", 3, least=0, most=950, label="Diameter", required=False)
    around = QuantityField(
        "mm", 3, least=0, most=3000, label="Or way round", required=False
    )
    steps = QuantityField("", 4, least=1, most=1e7, label="Steps a turn")
    roller = QuantityField("mm", 3, least=0.5, most=500, label="Roller")
    output = forms.ChoiceField(choices=rotary_choices, label="Told as")
    y_steps = QuantityField(
        "", 4, least=0.1, most=1e5, label="Y is set to", says="steps/mm"
    )
    reversed = forms.BooleanField(required=False, label="Turns the other way")
    back_to_start = forms.BooleanField(required=False, label="Back to start")
    overlap = QuantityField("mm", 2, least=0, most=50, label="Burned over at the seam")
    wrap = forms.BooleanField(required=False, label="Closes all round")
    ring_size = QuantityField(
        "", 1, least=0, most=300, label="Ring size (ISO 8653)", required=False
    )
    repeat = forms.IntegerField(min_value=1, max_value=100, label="Times round")
    from_seam = QuantityField(
        "mm", 2, least=-3000, most=3000, label="Middle from the seam", required=False
    )
    strip = QuantityField("mm", 1, least=0, most=3000, label="Strips of (0: none)")
    design_turn = forms.CharField(required=False, max_length=5)
    zone_name = forms.CharField(required=False, max_length=60, label="What is there")
    zone_from = QuantityField("mm", 1, least=0, most=3000, label="From the seam")
    zone_width = QuantityField("mm", 1, least=0.1, most=3000, label="Wide")
    zone_add = forms.CharField(required=False, max_length=2)
    zone_drop = forms.IntegerField(required=False, min_value=0, max_value=19)
    line_told = QuantityField("mm", 2, least=1, most=1000, label="A line of")
    line_came = QuantityField(
        "mm", 3, least=0, most=2000, label="Came out as", required=False
    )
    past = QuantityField("mm", 3, least=-1500, most=1500, label="Past its mark by")
    overlap_deg = QuantityField(
        "°", 2, least=0, most=180, label="Or in degrees", required=False
    )
    past_deg = QuantityField("°", 3, least=-179, most=179, label="Or by", required=False)
    jaw = forms.CharField(required=False, max_length=60, label="Held by")
    pocket_x = QuantityField(
        "mm", 2, least=-3000, most=3000, label="Right of the first", required=False
    )
    pocket_y = QuantityField(
        "mm", 2, least=-3000, most=3000, label="Behind the first", required=False
    )
    pocket_turn = QuantityField(
        "°", 2, least=-180, most=180, label="Turned besides", required=False
    )
    pocket_grid = forms.CharField(required=False, max_length=2)
    shown = forms.IntegerField(required=False, min_value=0, max_value=399)
    pocket_toggle = forms.IntegerField(required=False, min_value=0, max_value=399)

    def changes(self) -> dict[str, Any]:
        """Return what was changed; empty buttons are no change."""
        found = super().changes()
        for name in ("shown", "pocket_toggle", "zone_drop"):
            if found.get(name) is None:
                found.pop(name, None)
        return found
