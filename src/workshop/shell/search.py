"""Searching: every word has to occur somewhere."""

from collections.abc import Iterable
from functools import reduce
from operator import and_, or_

from django.db.models import Q

from workshop.shell.numbers import whole


def every_word(text: str, places: Iterable[str], number: str = "") -> Q:
    """Return what holds where every word of a text occurs in one of the places.

    Parameters
    ----------
    text : str
        Words; none of them narrows nothing.
    places : iterable of str
        Fields, as queries name them.
    number : str
        A field that a word which is a number may also be.
    """
    places = tuple(places)
    return reduce(and_, (_somewhere(word, places, number) for word in text.split()), Q())


def _somewhere(word: str, places: tuple[str, ...], number: str) -> Q:
    held = reduce(or_, (Q(**{f"{place}__icontains": word}) for place in places))
    value = whole(word) if number else None
    return held if value is None else held | Q(**{number: value})
