"""What every station's form has."""

from collections.abc import Mapping
from typing import Any

from django import forms


class StationForm(forms.Form):
    """A form over one part of a job.

    Parameters
    ----------
    data : mapping or None
        What was posted.
    initial : dict
        The job's present values.
    """

    use_required_attribute = False

    out_of_sight: frozenset[str] = frozenset()
    """Fields that buttons and the table fill; their faults stand at the top."""

    fold_of: Mapping[str, str] = {}
    """Which fold holds a field, by the beginning of its name."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        kwargs.setdefault("label_suffix", "")
        kwargs.setdefault("auto_id", "f-%s")
        super().__init__(*args, **kwargs)

    def changes(self) -> dict[str, Any]:
        """Return the clean values of the fields that were changed."""
        return {name: self.cleaned_data[name] for name in self.changed_data}

    def field_of(self, name: str) -> str | None:
        """Return the field that shows a value of the job file, None when none does."""
        for candidate in (name, name.removesuffix("_mm_s"), name.removesuffix("_mm")):
            if candidate in self.fields and candidate not in self.out_of_sight:
                return candidate
        return None

    def faults(self) -> list[str]:
        """Return the faults that belong to no field in sight."""
        hidden = [self.errors[name] for name in self.errors if name in self.out_of_sight]
        return [*self.non_field_errors(), *(text for texts in hidden for text in texts)]

    def fold(self) -> str:
        """Return the fold that holds the first field with a fault, empty without one."""
        for name in self.errors:
            for start, fold in self.fold_of.items():
                if name.startswith(start):
                    return fold
        return ""


def model_choice(model: Any, empty: str, **kwargs: Any) -> forms.ModelChoiceField:
    """Return a choice of everything of one kind on the shelf, or of none."""
    return forms.ModelChoiceField(
        queryset=model.objects.all(), required=False, empty_label=empty, **kwargs
    )


def hidden() -> forms.CharField:
    """Return a field that scripts and buttons fill, empty when nothing was done."""
    return forms.CharField(required=False, max_length=2_000_000)
