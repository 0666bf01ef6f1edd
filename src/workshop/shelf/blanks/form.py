"""Forms of the shelf; they read and check, and write nothing."""

from typing import Any

from django import forms

from workshop.shelf.blanks import choices
from workshop.shelf.models import Blank, Substrate
from workshop.shell.names import NameField
from workshop.shell.quantity import QuantityField

_MOST_COLOURS = 8


def _length(label: str, least: float = 0.0, most: float = 3000.0) -> QuantityField:
    return QuantityField("mm", 2, least=least, most=most, label=label, required=False)


class ShelfBlankForm(forms.Form):
    """A blank: shape, measures, engravable area, substrate, colours."""

    use_required_attribute = False

    name = NameField()
    shape = forms.ChoiceField(choices=choices.shape_choices, label="Shape")
    width_mm = _length("Width", 0.1)
    height_mm = _length("Height", 0.1)
    thickness_mm = _length("Thickness", 0, 500)
    corner_mm = _length("Corners", 0, 500)
    diameter_mm = _length("Diameter", 0, 950)
    foot_mm = _length("Diameter at the foot", 0, 950)
    margin_mm = _length("Margin", 0, 500)
    own_area = forms.BooleanField(required=False, label="An area of its own")
    area_shape = forms.ChoiceField(
        choices=choices.area_choices, required=False, label="Area"
    )
    area_width = _length("Area's width", 0.1)
    area_height = _length("Area's height", 0.1)
    area_x = _length("Right of middle", -3000)
    area_y = _length("Above middle", -3000)
    keep_inside = forms.BooleanField(required=False, label="Keep dots inside")
    substrate = forms.ModelChoiceField(
        queryset=Substrate.objects.all(), required=False, empty_label="any"
    )
    note = forms.CharField(required=False, max_length=1000, label="Note")
    drawing = forms.FileField(required=False, label="Outline as SVG")
    photo = forms.FileField(required=False, label="Photo")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        self.item: Blank | None = kwargs.pop("item", None)
        kwargs.setdefault("label_suffix", "")
        kwargs.setdefault("auto_id", "f-%s")
        super().__init__(*args, **kwargs)
        filled = sum(f"colour{i}_name" in self.initial for i in range(_MOST_COLOURS))
        self.colour_numbers = list(range(min(filled + 2, _MOST_COLOURS)))
        for i in self.colour_numbers:
            self.fields[f"colour{i}_name"] = forms.CharField(required=False, max_length=60)
            for name, plain in (("ground", "#d9b88a"), ("mark", "#3b2415")):
                self.fields[f"colour{i}_{name}"] = forms.RegexField(
                    r"^#[0-9a-fA-F]{6}$", required=False, initial=plain
                )

    def clean_name(self) -> str:
        """Refuse a name that another blank has."""
        name = " ".join(self.cleaned_data["name"].split())
        others = Blank.objects.filter(name=name)
        if self.item:
            others = others.exclude(pk=self.item.pk)
        if others.exists():
            raise forms.ValidationError("Another blank has this name.")
        return name

    def colours(self) -> list[tuple[Any, Any, Any]]:
        """Return the bound fields of each colour, for the page."""
        return [
            tuple(self[f"colour{i}_{name}"] for name in ("name", "ground", "mark"))  # type: ignore[misc]
            for i in self.colour_numbers
        ]
