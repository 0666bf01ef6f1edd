"""Which burns the log shows: found by words, machine, how they went, and when."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date

from django.db.models import Q, QuerySet

from workshop.bench.models import Run
from workshop.shell.numbers import whole
from workshop.shell.search import every_word

_PLACES = (
    "job__name", "job__customer", "spec__substrate__name", "spec__burn__recipe",
    "operator", "notes", "why",
)  # fmt: skip
_WENT = {name for name, _ in Run.STATES} | {name for name, _ in Run.RESULTS}


@dataclass(frozen=True)
class Wanted:
    """What is asked for; empty is everything.

    Attributes
    ----------
    find : str
        Words that job, customer, material, recipe, operator or notes hold, or a number.
    machine : int or None
    went : str
        A state, or a result.
    since, until : date or None
        Days, both included.
    """

    find: str = ""
    machine: int | None = None
    went: str = ""
    since: date | None = None
    until: date | None = None

    @classmethod
    def of(cls, words: Mapping[str, str]) -> "Wanted":
        """Return what an address asks for; what makes no sense asks for nothing."""
        went = words.get("went", "")
        return cls(
            words.get("find", "").strip()[:100],
            whole(words.get("machine", "")),
            went if went in _WENT else "",
            _day(words.get("since", "")),
            _day(words.get("until", "")),
        )


def _day(text: str) -> date | None:
    try:
        return date.fromisoformat(text)
    except ValueError:
        return None


def found(wanted: Wanted) -> QuerySet[Run]:
    """Return the burns that are asked for, newest first."""
    runs = Run.objects.exclude(state="queued").select_related("job__recipe", "machine")
    runs = runs.filter(every_word(wanted.find, _PLACES, "job__number"))
    if wanted.machine is not None:
        runs = runs.filter(machine=wanted.machine)
    if wanted.went:
        runs = runs.filter(Q(state=wanted.went) | Q(result=wanted.went))
    if wanted.since:
        runs = runs.filter(created__date__gte=wanted.since)
    if wanted.until:
        runs = runs.filter(created__date__lte=wanted.until)
    return runs.order_by("-pk")
