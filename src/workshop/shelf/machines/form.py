"""A machine's form: one page, every value with its unit."""

from typing import Any

from django import forms
from django.conf import settings
from django.forms import BoundField

from workshop.controller.port import refusal
from workshop.shelf.machines import choices
from workshop.shelf.models import Machine
from workshop.shelf.shelf_form import ShelfForm
from workshop.shell.names import NameField
from workshop.shell.quantity import QuantityField


def _speed(label: str, *, least: float = 0.1, **kwargs: Any) -> QuantityField:
    return QuantityField("mm/s", 1, least=least, most=20000, label=label, **kwargs)


def _plain(
    label: str, says: str, least: float, most: float, places: int = 2
) -> QuantityField:
    return QuantityField(
        "", places, least=least, most=most, label=label, says=says, required=False
    )


_TOLD = (
    "beam", "s_max", "decimals", "most_decimals", "line_end", "air_on", "air_off", "header",
    "footer", "file_ending", "file_mb",
)  # fmt: skip


class PortForm(ShelfForm):
    """What all forms of a machine ask: its name, what it marks with, its bed, its port."""

    model = Machine
    thing = "machine"

    name = NameField()
    kind = forms.ChoiceField(choices=choices.beam_choices, label="It marks with")
    rated_power_w = _plain("Rated power", "W", 0.1, 10000, 1)
    bed_width_mm = QuantityField("mm", 1, least=1, most=3000, label="Bed's width")
    bed_height_mm = QuantityField("mm", 1, least=1, most=3000, label="Bed's depth")
    link = forms.CharField(required=False, max_length=200, label="Port")

    def clean_link(self) -> str:
        """Let only what may be opened be a machine's port."""
        address = str(self.cleaned_data.get("link") or "").strip()
        if address and (why := refusal(address, settings.LINK_HOSTS)):
            raise forms.ValidationError(why)
        return address


class FirstForm(PortForm):
    """The first machine of a workshop: what cannot be guessed."""


class MachineForm(PortForm):
    """A machine: beam or tool, bed, motion, lenses, return rows, dialect, link."""

    wavelength_um = _plain("Wavelength", "µm", 0.1, 20, 3)
    lowest_power = QuantityField(
        "%", 1, least=0, most=100, label="Least power that marks", required=False
    )
    response_ms = _plain("Response time", "ms", 0, 100, 3)
    beam_diameter_mm = QuantityField(
        "mm", 2, least=0, most=100, label="Beam at the lens", required=False
    )
    beam_quality = _plain("Beam quality M²", "", 1, 1000, 2)
    depth_mm = QuantityField(
        "mm", 3, least=0, most=50, label="Depth of a mark", required=False
    )
    lift_mm = QuantityField("mm", 2, least=0, most=100, label="Lifted by", required=False)
    origin = forms.ChoiceField(choices=choices.origin_choices, label="Zero at")
    x_runs = forms.ChoiceField(choices=choices.x_choices, label="X grows")
    y_runs = forms.ChoiceField(choices=choices.y_choices, label="Y grows")
    max_speed_mm_s = _speed("Fastest along X")
    max_speed_y_mm_s = _speed("Fastest along Y", required=False, least=0)
    rapid_mm_s = _speed("Rapid moves")
    acceleration_mm_s2 = _plain("Acceleration of X", "mm/s²", 1, 500000, 0)
    acceleration_y_mm_s2 = _plain("Acceleration of Y", "mm/s²", 0, 500000, 0)
    max_speed_z_mm_s = _speed("Fastest up and down", required=False)
    acceleration_z_mm_s2 = _plain("Acceleration of Z", "mm/s²", 1, 500000, 0)
    step_mm = QuantityField(
        "mm", 5, least=0, most=1, label="One motor step", required=False
    )
    junction_mm = QuantityField(
        "mm", 3, least=0, most=1, label="Beside a corner", required=False
    )
    look_ahead = forms.IntegerField(
        min_value=0, max_value=100000, required=False, label="Moves planned"
    )
    longest_min = _plain("Ask about jobs over", "min", 0, 100000, 0)
    z_axis = forms.BooleanField(required=False, label="The program can move the focus")
    focus_height_mm = QuantityField(
        "mm", 2, least=0, most=1000, label="Lens to surface", required=False
    )
    block_mm = QuantityField(
        "mm", 2, least=0, most=1000, label="Focus block", required=False
    )
    fitted = forms.CharField(required=False, max_length=100)
    s_max = forms.IntegerField(min_value=1, max_value=100000, label="S word of full power")
    beam = forms.ChoiceField(choices=choices.beam_word_choices, label="Beam on by")
    decimals = forms.IntegerField(min_value=1, max_value=5, label="Decimals, at least")
    most_decimals = forms.IntegerField(min_value=1, max_value=5, label="At most")
    short_names = forms.BooleanField(required=False, label="Reads short names alone")
    file_ending = forms.CharField(required=False, max_length=8, label="Names end in")
    file_mb = _plain("Most a file has", "MB", 0, 100000, 3)
    inches = forms.BooleanField(required=False, label="Writes inches")
    line_end = forms.ChoiceField(choices=choices.line_end_choices, label="Line ends")
    air_on = forms.CharField(required=False, max_length=80, label="Air on")
    air_off = forms.CharField(required=False, max_length=80, label="Air off")
    header = forms.CharField(required=False, max_length=2000, widget=forms.Textarea)
    footer = forms.CharField(required=False, max_length=2000, widget=forms.Textarea)
    baud = forms.IntegerField(
        min_value=1200, max_value=4000000, required=False, label="Baud"
    )
    note = forms.CharField(required=False, max_length=1000, label="Note")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for i in range(choices.MOST_LENSES):
            of = f"of lens {i + 1}"
            self.fields[f"lens{i}_name"] = forms.CharField(required=False, max_length=100)
            self.fields[f"lens{i}_focal_mm"] = QuantityField(
                "mm", 2, least=0.1, most=2000, required=False, label="Focal length", of=of
            )
            self.fields[f"lens{i}_spot_mm"] = QuantityField(
                "mm", 4, least=0.001, most=10, required=False, label="Spot", of=of
            )
            self.fields[f"lens{i}_depth_mm"] = QuantityField(
                "mm", 2, least=0, most=500, required=False, label="Depth of focus", of=of
            )
            self.fields[f"lens{i}_known"] = forms.ChoiceField(
                choices=choices.known_choices, required=False
            )
        for i in range(choices.MOST_SHIFTS):
            of = f"of return rows, {i + 1}"
            self.fields[f"shift{i}_speed"] = _speed("Speed", required=False, of=of)
            self.fields[f"shift{i}_mm"] = QuantityField(
                "mm", 4, least=-5, most=5, required=False, label="Shift", of=of
            )

    def lenses(self) -> list[dict[str, BoundField]]:
        """Return the bound fields of each lens, empty ones after the first left off."""
        rows = [
            {
                n: self[f"lens{i}_{n}"]
                for n in ("name", "focal_mm", "spot_mm", "depth_mm", "known")
            }
            for i in range(choices.MOST_LENSES)
        ]
        filled = sum(bool(row["name"].value()) for row in rows)
        return rows[: min(filled + 1, choices.MOST_LENSES)]

    def shifts(self) -> list[tuple[BoundField, BoundField]]:
        """Return the bound fields of the return-row table."""
        rows = [
            (self[f"shift{i}_speed"], self[f"shift{i}_mm"])
            for i in range(choices.MOST_SHIFTS)
        ]
        filled = sum(bool(speed.value()) for speed, _ in rows)
        return rows[: min(filled + 2, choices.MOST_SHIFTS)]

    @property
    def told_wrong(self) -> bool:
        """Whether something is wrong with what the controller is told, or its files."""
        return any(self[name].errors for name in _TOLD)

    def clean_file_ending(self) -> str:
        """Let files end as usual where nothing is typed."""
        ending = str(self.cleaned_data.get("file_ending") or "").strip(". ")
        if ending and not (ending.isascii() and ending.isalnum()):
            raise forms.ValidationError("Letters and digits only, such as gcode or nc.")
        return ending or "gcode"

    def clean(self) -> dict[str, Any]:
        """Leave empty numbers at what a new machine has."""
        data: dict[str, Any] = super().clean() or {}
        return {name: value for name, value in data.items() if value is not None}
