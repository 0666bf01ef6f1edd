"""A form field for what a thing is called."""

from typing import Any

from django import forms


class NameField(forms.CharField):
    """A name that is needed; without one the field asks for it."""

    def __init__(self, *, max_length: int = 100, label: str = "Name", **more: Any) -> None:
        super().__init__(
            max_length=max_length,
            label=label,
            error_messages={"required": "Type a name."},
            **more,
        )
