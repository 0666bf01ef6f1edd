"""The Artwork station's form: the picture, and what is done to it by hand."""

from typing import Any

from django import forms

from workshop.jobs.stations.artwork.choices import (
    font_choices,
    frame_choices,
    ground_choices,
    holds_choices,
    look_choices,
    mix_choices,
)
from workshop.jobs.stations.form import StationForm, hidden
from workshop.shell.names import NameField
from workshop.shell.quantity import QuantityField


class PictureFields(StationForm):
    """File, squaring, crop and gray mix."""

    name = NameField(max_length=200, label="Name of the job")
    customer = forms.CharField(max_length=200, required=False, label="For whom")
    due = forms.DateField(
        required=False,
        label="Due",
        error_messages={"invalid": "Type a day, such as 2026-12-24."},
    )
    note = forms.CharField(max_length=2000, required=False, label="Note")
    sheet = forms.CharField(max_length=40, required=False)
    ground = forms.ChoiceField(choices=ground_choices, label="Transparent ground")
    ground_gray = QuantityField("", 0, least=0, most=255, label="Gray")
    keep_dots = forms.BooleanField(required=False, label="Keep these dots")
    holds = forms.ChoiceField(choices=holds_choices, label="It holds")
    turn = forms.ChoiceField(
        choices=[("", ""), ("left", "left"), ("right", "right")], required=False
    )
    mirror = forms.BooleanField(required=False, label="Mirror left to right")
    straighten = QuantityField(
        "°", 2, least=-45, most=45, label="Straighten", slider=(-15, 15, 0.1)
    )
    corners = hidden()
    lock_ratio = forms.BooleanField(required=False, label="Keep the blank's ratio")
    crop_left = forms.FloatField(min_value=0, max_value=1)
    crop_top = forms.FloatField(min_value=0, max_value=1)
    crop_width = forms.FloatField(min_value=0.0001, max_value=1)
    crop_height = forms.FloatField(min_value=0.0001, max_value=1)
    mix = forms.ChoiceField(choices=mix_choices, required=False)
    red = QuantityField("%", 0, least=-200, most=300, label="Red", slider=(-50, 150, 1))
    green = QuantityField("%", 0, least=-200, most=300, label="Green", slider=(-50, 150, 1))
    blue = QuantityField("%", 0, least=-200, most=300, label="Blue", slider=(-50, 150, 1))
    drop_add = forms.RegexField(r"^#[0-9a-f]{6}$", required=False)
    drop_remove = hidden()


_FOLD_OF = {
    "ground": "file",
    "keep_dots": "file",
    "straighten": "shape",
    "red": "gray",
    "green": "gray",
    "blue": "gray",
    "drop": "gray",
    "grow": "ground",
    "feather": "ground",
    "frame": "ground",
    "corner": "ground",
    "vignette": "ground",
    "line": "letters",
    "border": "border",
}


class ArtworkForm(PictureFields):
    """The whole station; lines of lettering and dropped colours bring their own fields."""

    mask_on = forms.BooleanField(required=False, label="Background on")
    mask_add = hidden()
    mask_take = hidden()
    invert = forms.BooleanField(required=False, label="The other way round")
    grow = QuantityField("mm", 2, least=-50, most=50, label="Grow", slider=(-2, 2, 0.05))
    feather = QuantityField(
        "mm", 2, least=0, most=50, label="Soft edge", slider=(0, 5, 0.05)
    )
    frame = forms.ChoiceField(choices=frame_choices, label="Frame")
    frame_inset = QuantityField("mm", 2, least=0, most=500, label="From the edge")
    corner = QuantityField("mm", 2, least=0, most=500, label="Corners")
    vignette = QuantityField(
        "mm", 1, least=0, most=500, label="Vignette", slider=(0, 30, 0.5)
    )
    retouch_on = forms.BooleanField(required=False, label="Retouching on")
    retouch_add = hidden()
    retouch_take = hidden()
    line_add = hidden()
    line_remove = hidden()
    border_on = forms.BooleanField(required=False, label="Border")
    border_width = QuantityField("mm", 2, least=0.01, most=200, label="Width")
    border_inset = QuantityField("mm", 2, least=0, most=500, label="From the edge")
    border_look = forms.ChoiceField(choices=look_choices, label="Border looks")

    fold_of = _FOLD_OF
    out_of_sight = frozenset(
        [
            "sheet",
            "turn",
            "corners",
            "crop_left",
            "crop_top",
            "crop_width",
            "crop_height",
            "mix",
            "drop_add",
            "drop_remove",
            "mask_add",
            "mask_take",
            "retouch_add",
            "retouch_take",
            "line_add",
            "line_remove",
        ]
    )

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        shown = self.initial or {}
        self.line_numbers = [i for i in range(24) if f"line{i}_text" in shown]
        for i in self.line_numbers:
            for name, field in line_fields().items():
                self.fields[f"line{i}_{name}"] = field
        self.drop_numbers = [i for i in range(12) if f"drop{i}" in shown]
        for i in self.drop_numbers:
            self.fields[f"drop{i}"] = QuantityField(
                "", 0, least=1, most=100, label="Reach", slider=(1, 60, 1)
            )

    def lines(self) -> list[dict[str, Any]]:
        """Return the bound fields of each line of lettering, for the page."""
        return [
            {"number": i, **{name: self[f"line{i}_{name}"] for name in line_fields()}}
            for i in self.line_numbers
        ]

    def drops(self) -> list[tuple[int, Any]]:
        """Return number and bound field of each dropped colour, for the page."""
        return [(i, self[f"drop{i}"]) for i in self.drop_numbers]


"""Starts of field names, and the fold they stand in."""


def line_fields() -> dict[str, forms.Field]:
    """Return fresh fields of one line of lettering."""
    return {
        "text": forms.CharField(max_length=200, label="Text"),
        "font": forms.ChoiceField(choices=font_choices, label="Font"),
        "cap": QuantityField("mm", 2, least=0.2, most=500, label="Capitals"),
        "x": QuantityField("mm", 2, least=-3000, most=3000, label="From middle"),
        "y": QuantityField("mm", 2, least=-3000, most=3000, label="Up"),
        "angle": QuantityField("°", 1, least=-360, most=360, label="Turned"),
        "arc": QuantityField("mm", 2, least=-3000, most=3000, label="Arc radius"),
        "spacing": QuantityField("mm", 2, least=-50, most=50, label="Spacing"),
        "look": forms.ChoiceField(choices=look_choices, label="Looks"),
    }
