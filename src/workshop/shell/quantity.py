"""A form field for a number with a unit, arithmetic allowed."""

from typing import Any

from django import forms

from workshop.shell.services import (
    Error,
    length_places,
    length_unit,
    read_length,
    read_quantity,
    show_number,
    shown_length,
)


class QuantityField(forms.CharField):
    """A typed-in quantity; its clean value is a float in `unit`.

    Parameters
    ----------
    unit : str
        Key of the units the program reads: mm, mm/s, %, dpi, dots, °, or "" for
        none.
    places : int
        Decimals shown.
    least, most : float, optional
        Bounds, in `unit`.
    slider : tuple of float, optional
        Ends and step of a slider beside the number.
    step : float, optional
        What an arrow key adds; the slider's step by default.
    says : str, optional
        The unit shown beside a plain number that the program reads no units of.
    of : str, optional
        What it belongs to where its label stands several times: "of lens 2".
    """

    def __init__(  # noqa: PLR0913 (all of them keywords)
        self,
        unit: str,
        places: int,
        *,
        least: float | None = None,
        most: float | None = None,
        slider: tuple[float, float, float] | None = None,
        step: float | None = None,
        says: str = "",
        of: str = "",
        **kwargs: Any,
    ) -> None:
        super().__init__(max_length=100, **kwargs)
        self.unit = unit
        self.places = places
        self.least = least
        self.most = most
        self.slider = slider
        self.says = says
        self.of = of
        self.step = step or (slider[2] if slider else 10.0 ** -min(places, 1))

    @property
    def shown_unit(self) -> str:
        """The unit beside the field: lengths follow the operator's choice."""
        return length_unit() if self.unit == "mm" else self.unit or self.says

    def shown(self, value: float) -> float:
        """Return a value in the unit it is shown in."""
        return shown_length(value) if self.unit == "mm" else value

    def prepare_value(self, value: Any) -> Any:
        """Return what stands in the field."""
        if value is None:
            return ""
        return self._written(value) if isinstance(value, float | int) else value

    def _written(self, value: float) -> str:
        places = length_places(self.places) if self.unit == "mm" else self.places
        return show_number(self.shown(value), places)

    def has_changed(self, initial: Any, data: Any) -> bool:
        """Return whether the text differs from what was shown.

        What was shown is rounded; a text left alone must not round the value.
        """
        return str(self.prepare_value(initial)) != str(data or "").strip()

    def clean(self, value: Any) -> Any:
        """Return the number.

        Raises
        ------
        ValidationError
            With one sentence, when it cannot be read or is out of bounds.
        """
        text = super().clean(value)
        if not text and not self.required:
            return None
        try:
            length = self.unit == "mm"
            number = read_length(text) if length else read_quantity(text, self.unit)
        except Error as error:
            raise forms.ValidationError(error.message) from None
        unit = f" {self.shown_unit}" if self.shown_unit else ""
        if self.least is not None and number < self.least:
            least = self._written(self.least)
            raise forms.ValidationError(f"It must be at least {least}{unit}.")
        if self.most is not None and number > self.most:
            most = self._written(self.most)
            raise forms.ValidationError(f"It can be at most {most}{unit}.")
        return number
