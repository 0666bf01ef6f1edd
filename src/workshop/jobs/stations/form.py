"""What every station's form has."""

from collections.abc import Callable, Mapping
from typing import Any, Self, cast

from django import forms
from django.http import QueryDict

from workshop.shell.services import Error

_CHOSEN = (forms.ChoiceField, forms.ModelChoiceField, forms.BooleanField)
"""Fields that are pressed, not typed in: their faults have no room beside them."""


class StationForm(forms.Form):
    """A form over one part of a job.

    A page posts what was changed by hand and nothing else (`of`): the rest of
    the form stands as the job has it now, however old the page is.

    Parameters
    ----------
    data : mapping or None
        A value for every field.
    initial : dict
        The job's present values.
    typed : set of str, optional
        The fields that were changed by hand; all by default.
    """

    use_required_attribute = False

    out_of_sight: frozenset[str] = frozenset()
    """Fields that buttons and the table fill; their faults stand at the top."""

    opens: frozenset[str] = frozenset()
    """Choices that bring the field that they want; refused, they stay as chosen."""

    riders: frozenset[str] = frozenset()
    """Fields that say how others are meant, and change nothing by themselves."""

    fold_of: Mapping[str, str] = {}
    """Which fold holds a field, by the beginning of its name."""

    def __init__(
        self, *args: Any, typed: frozenset[str] | None = None, **kwargs: Any
    ) -> None:
        kwargs.setdefault("label_suffix", "")
        kwargs.setdefault("auto_id", "f-%s")
        super().__init__(*args, **kwargs)
        self.typed = frozenset(self.fields) if typed is None else typed

    @classmethod
    def of(cls, posted: QueryDict, initial: dict[str, Any], **kwargs: Any) -> Self:
        """Return the form with what was changed by hand over the job's present values.

        ``posted`` names the changed fields under ``changed``; where it does not,
        every field that it has a value of counts as changed. A switch that was
        named and has no value was put off.
        """
        shown = cls(initial=initial, **kwargs)
        names = posted.getlist("changed") or list(posted)
        typed = frozenset(name for name in names if name in shown.fields)
        data = QueryDict(mutable=True)
        for name in shown.fields:
            if name not in typed:
                data.setlist(name, shown.posted_value(name))
            elif name in posted:
                data.setlist(name, posted.getlist(name))
        return cls(data, initial=initial, typed=typed, **kwargs)

    def posted_value(self, name: str) -> list[str]:
        """Return what a browser would post of a field as it is shown."""
        value = self[name].value()
        if isinstance(self.fields[name], forms.BooleanField):
            return ["on"] if value else []
        if isinstance(value, list | tuple):
            return [str(one) for one in value]
        return [] if value is None else [str(value)]

    def posted_now(self, name: str) -> str:
        """Return what a browser would post of a field as the job has it now."""
        return ", ".join(type(self)(initial=self.initial).posted_value(name))

    def full_clean(self) -> None:
        """Check what was typed; of a field left alone nobody wants to hear a fault."""
        super().full_clean()
        for name in [name for name in self.errors if name in self.fields]:
            if name not in self.typed:
                del self._errors[name]  # type: ignore[attr-defined]

    def changes(self) -> dict[str, Any]:
        """Return the clean values of the fields that were changed and are in order."""
        self.is_valid()
        return {
            name: self.cleaned_data[name]
            for name in self.changed_data
            if name in self.typed and name in self.cleaned_data
        }

    def apply(self, change: Callable[[dict[str, Any]], object]) -> None:
        """Apply what is in order; what cannot be is refused at its own field.

        Parameters
        ----------
        change : callable
            Takes changed values; raises `Error` where the result is no valid job.
        """
        changes = self.changes()
        names = [name for name in changes if name not in self.riders]
        if not names:
            return
        try:
            change(dict(changes))
        except Error as error:
            if len(names) == 1:
                seen = names[0] not in self.out_of_sight
                at = names[0] if seen else self.field_of(error.field)
                self.refuse(at, error.message)
                return
        else:
            return
        for name in names:
            self._apply_alone(change, name, changes)

    def _apply_alone(
        self, change: Callable[[dict[str, Any]], object], name: str, changes: dict[str, Any]
    ) -> None:
        riders = {one: changes[one] for one in self.riders if one in changes}
        try:
            change({name: changes[name], **riders})
        except Error as error:
            self.refuse(None if name in self.out_of_sight else name, error.message)

    def refuse(self, name: str | None, sentence: str) -> None:
        """Tell a fault; a choice that is refused goes back to what the job has."""
        self.add_error(name, sentence)
        if name is None or name in self.refused:
            return
        data = cast("QueryDict", self.data).copy()
        data.setlist(name, type(self)(initial=self.initial).posted_value(name))
        self.data = data

    @property
    def refused(self) -> list[str]:
        """The fields that still show what was refused."""
        return [
            name
            for name in self.errors
            if name in self.fields
            and (name in self.opens or not isinstance(self.fields[name], _CHOSEN))
        ]

    def blamed(self, *names: str) -> str:
        """Return which of some fields a fault of them together belongs to."""
        return next((name for name in names if name in self.typed), names[0])

    def field_of(self, name: str) -> str | None:
        """Return the field that shows a value of the job file, None when none does."""
        for candidate in (name, name.removesuffix("_mm_s"), name.removesuffix("_mm")):
            if candidate in self.fields and candidate not in self.out_of_sight:
                return candidate
        return None

    def faults(self) -> list[str]:
        """Return the faults that belong to no field in sight, or to a switch."""
        said = [*self.non_field_errors()]
        for name in self.errors:
            if name in self.out_of_sight:
                said += self.errors[name]
            elif name in self.fields and isinstance(self.fields[name], _CHOSEN):
                said += [f"{self.fields[name].label}: {text}" for text in self.errors[name]]
        return said

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
