"""Answers about a ticket as it stands, not as a change has left it behind.

What is computed for a revision that a change has left behind would keep a processor from
what the operator waits for. So it stops between two stages and looks again: what is asked
for may be of the ticket as it stands now too, and what both share is kept.
"""

import time
from collections.abc import Callable
from contextlib import suppress
from functools import wraps
from typing import Any, TypeVar

from django.http import HttpRequest

from engraving.pipeline import Overtaken, unless_overtaken
from workshop.jobs.models import Job

T = TypeVar("T")

LOOKS_EVERY_S = 0.02
"""How long computing goes on before it looks into the base again."""


def as_it_stands(view: Callable[..., T]) -> Callable[..., T]:
    """Make a view of a ticket begin again where the ticket is changed while it computes.

    The view only reads; it finds the ticket by its number each time.
    """

    @wraps(view)
    def answered(request: HttpRequest, number: int, **named: Any) -> T:
        while True:
            with suppress(Overtaken), unless_overtaken(_changed_since(number)):
                return view(request, number, **named)

    return answered


def unless_changed(
    otherwise: Callable[..., T],
) -> Callable[[Callable[..., T]], Callable[..., T]]:
    """Make a view of a ticket answer otherwise where that is changed while it computes.

    For what a page asks for again by itself when the hand rests.
    """

    def held(view: Callable[..., T]) -> Callable[..., T]:
        @wraps(view)
        def answered(request: HttpRequest, number: int, **named: Any) -> T:
            try:
                with unless_overtaken(_changed_since(number)):
                    return view(request, number, **named)
            except Overtaken:
                return otherwise(request, number, **named)

        return answered

    return held


def _changed_since(number: int) -> Callable[[], bool]:
    """Return what tells whether a ticket was changed since now."""
    began_with, looked = _state(number), time.monotonic()

    def changed() -> bool:
        nonlocal looked
        now = time.monotonic()
        if now - looked < LOOKS_EVERY_S:
            return False
        looked = now
        return _state(number) != began_with

    return changed


def _state(number: int) -> str | None:
    return Job.objects.filter(number=number).values_list("head__digest", flat=True).first()
