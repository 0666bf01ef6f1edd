"""What forms of shelf items have in common."""

from typing import Any

from django import forms
from django.db.models import Model


class ShelfForm(forms.Form):
    """A form over one shelf item; `item` is the one that is changed, if any."""

    use_required_attribute = False
    model: type[Model]
    thing = "item"
    unique = True

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        self.item: Any = kwargs.pop("item", None)
        kwargs.setdefault("label_suffix", "")
        kwargs.setdefault("auto_id", "f-%s")
        super().__init__(*args, **kwargs)

    def clean_name(self) -> str:
        """Refuse a name that another has."""
        name = " ".join(self.cleaned_data["name"].split())
        if not self.unique:
            return name
        others = self.model._default_manager.filter(name=name)  # noqa: SLF001
        if self.item:
            others = others.exclude(pk=self.item.pk)
        if others.exists():
            raise forms.ValidationError(f"Another {self.thing} has this name.")
        return name

    def add_fault(self, field: str, message: str) -> None:
        """Put an error of the core at its field, or at the top."""
        self.add_error(field if field in self.fields else None, message)
