"""What a job's types allow, for whoever lets one choose."""

from enum import StrEnum
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from engraving.jobspec.base import Part


def values_of(part: type[Part], name: str) -> tuple[Any, ...]:
    """Return all values that a field of a part may have, in the order of its type.

    Raises
    ------
    TypeError
        For a field that is no choice between named values.
    """
    found = _values(part.model_fields[name].annotation)
    if not found:
        raise TypeError(f"{part.__name__}.{name} is no choice")
    return found


def _values(kind: Any) -> tuple[Any, ...]:
    if get_origin(kind) is Literal:
        return get_args(kind)
    if isinstance(kind, type) and issubclass(kind, StrEnum):
        return tuple(one.value for one in kind)
    if get_origin(kind) in (Annotated, Union, UnionType):
        return tuple(value for one in get_args(kind) for value in _values(one))
    return ()
