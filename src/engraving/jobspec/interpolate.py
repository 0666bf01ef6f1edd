"""A job between two others."""

from typing import Any, Literal, get_origin

from engraving.jobspec.base import Part
from engraving.jobspec.job import JobSpec

_BLENDED = ("tone", "dots", "reproduction", "burn", "size")
_KEPT = frozenset({"recipe_version", "recipe_dose", "width_mm", "height_mm", "repeat"})


def interpolate_specs(first: JobSpec, second: JobSpec, share: float) -> JobSpec:
    """Return a job whose numbers lie between those of two jobs.

    Parameters
    ----------
    first, second : JobSpec
        What cannot lie between (a dot method, a switch) is the nearer one's.
    share : float
        0 is the first, 1 the second.

    Raises
    ------
    pydantic.ValidationError
        When no job lies there.
    """
    nearer = first if share < 0.5 else second
    data = nearer.model_dump(mode="json")
    pair = first.model_dump(mode="json"), second.model_dump(mode="json")
    for part in _BLENDED:
        choices = _choices(type(getattr(nearer, part)))
        for name, value in data[part].items():
            if name not in _KEPT | choices:
                ends = pair[0][part][name], pair[1][part][name]
                data[part][name] = _blend(*ends, share, value)
    return JobSpec.model_validate(data)


def _choices(part: type[Part]) -> set[str]:
    """Return the names of values that are one of a few: nothing lies between those."""
    fields = part.model_fields.items()
    return {name for name, field in fields if get_origin(field.annotation) is Literal}


def _blend(first: Any, second: Any, share: float, nearer: Any) -> Any:
    numbers = all(
        isinstance(one, int | float) and not isinstance(one, bool)
        for one in (first, second)
    )
    if numbers:
        mixed = first + (second - first) * share
        whole = isinstance(first, int) and isinstance(second, int)
        return round(mixed) if whole else round(mixed, 6)
    lists = isinstance(first, list) and isinstance(second, list)
    if lists and len(first) == len(second):
        return [
            _blend(a, b, share, c) for a, b, c in zip(first, second, nearer, strict=True)
        ]
    return nearer
