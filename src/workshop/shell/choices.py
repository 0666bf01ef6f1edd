"""Choices of forms: the values from the job's types, the words from here."""

from collections.abc import Mapping
from typing import Any

from engraving.jobspec import Part, values_of

Choices = list[tuple[Any, str]]


def labelled(
    part: type[Part], name: str, words: Mapping[Any, str] | None = None
) -> Choices:
    """Return the choices of a field, in the order of its words.

    Parameters
    ----------
    part : type of Part
    name : str
        A field that is a choice.
    words : mapping, optional
        Value to what it is called; without, a value is its own word.

    Raises
    ------
    LookupError
        When a value has no word, or a word no value: neither may be forgotten.
    """
    values = values_of(part, name)
    words = words or {value: str(value).replace("-", " ") for value in values}
    if unlike := set(values) ^ set(words):
        raise LookupError(f"{part.__name__}.{name}: {sorted(map(str, unlike))}")
    return list(words.items())
