"""A form field for a number with a unit, arithmetic allowed."""

from typing import Any

from django import forms

from workshop.shell.services import Error, read_quantity, show_number


class QuantityField(forms.CharField):
    """A typed-in quantity; its clean value is a float in `unit`.

    Parameters
    ----------
    unit : str
        Key of the units the program reads: mm, mm/s, %, dpi, °, or "" for none.
    places : int
        Decimals shown.
    least, most : float, optional
        Bounds, in `unit`.
    """

    def __init__(
        self,
        unit: str,
        places: int,
        *,
        least: float | None = None,
        most: float | None = None,
        slider: tuple[float, float, float] | None = None,
        **kwargs: Any,
    ) -> None:
        super().__init__(max_length=100, **kwargs)
        self.unit = unit
        self.places = places
        self.least = least
        self.most = most
        self.slider = slider

    def prepare_value(self, value: Any) -> Any:
        """Return what stands in the field."""
        return show_number(value, self.places) if isinstance(value, float | int) else value

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
        try:
            number = read_quantity(text, self.unit)
        except Error as error:
            raise forms.ValidationError(error.message) from None
        unit = f" {self.unit}" if self.unit else ""
        if self.least is not None and number < self.least:
            least = show_number(self.least, self.places)
            raise forms.ValidationError(f"It must be at least {least}{unit}.")
        if self.most is not None and number > self.most:
            most = show_number(self.most, self.places)
            raise forms.ValidationError(f"It can be at most {most}{unit}.")
        return number
