"""Which tickets the rack shows: found by words, narrowed, sorted, a page at a time."""

from collections.abc import Mapping
from dataclasses import dataclass, fields
from datetime import timedelta
from types import MappingProxyType
from urllib.parse import urlencode

from django.db.models import F, Q, QuerySet
from django.utils import timezone

from workshop.jobs.models import Job
from workshop.shell.numbers import whole

PAGE = 24
_SOON_DAYS = 7

STATES: Mapping[str, str] = MappingProxyType(
    {
        "": "To do",
        "open": "To do, not checked as it stands",
        "ready": "To do, checked as it stands",
        "burned": "Burned",
        "away": "Put away",
    }
)
SORTS: Mapping[str, str] = MappingProxyType(
    {
        "": "Newest first",
        "old": "Oldest first",
        "due": "By due day",
        "name": "By name",
        "customer": "By customer",
    }
)
DUES: Mapping[str, str] = MappingProxyType(
    {"": "Any day", "late": "Overdue", "soon": "Due within a week", "none": "Without a day"}
)
_ORDER: Mapping[str, tuple[str | object, ...]] = MappingProxyType(
    {
        "": ("-number",),
        "old": ("number",),
        "due": (F("due").asc(nulls_last=True), "-number"),
        "name": ("name", "-number"),
        "customer": ("customer", "-number"),
    }
)


@dataclass(frozen=True)
class Wanted:
    """What is asked for; empty narrows nothing.

    Attributes
    ----------
    find : str
        Words; every one has to occur.
    state, due, sort : str
        Of `STATES`, `DUES` and `SORTS`.
    customer : str
    machine, substrate : int or None
        Keys on the shelf.
    page : int
        From 1.
    """

    find: str = ""
    state: str = ""
    customer: str = ""
    due: str = ""
    sort: str = ""
    machine: int | None = None
    substrate: int | None = None
    page: int = 1

    @classmethod
    def of(cls, words: Mapping[str, str]) -> "Wanted":
        """Return what an address asks for; what makes no sense asks for nothing."""

        def known(name: str, among: Mapping[str, str]) -> str:
            value = words.get(name, "")
            return value if value in among else ""

        return cls(
            find=words.get("find", "").strip()[:100],
            state=known("state", STATES),
            customer=words.get("customer", "")[:200],
            due=known("due", DUES),
            sort=known("sort", SORTS),
            machine=whole(words.get("machine", "")),
            substrate=whole(words.get("substrate", "")),
            page=max(whole(words.get("page", "")) or 1, 1),
        )

    @property
    def narrows(self) -> bool:
        """Whether more is asked for than words."""
        plain = Wanted(find=self.find, page=self.page)
        return self != plain

    @property
    def next_page(self) -> str:
        """The address of what follows, without its question mark."""
        words = {
            field.name: value
            for field in fields(self)
            if field.name != "page"
            and (value := getattr(self, field.name)) not in ("", None)
        }
        return urlencode({**words, "page": self.page + 1})


def found(wanted: Wanted) -> QuerySet[Job]:
    """Return the tickets that are asked for, all of them, in order."""
    jobs = Job.objects.with_all().filter(_in_state(wanted.state), _due(wanted.due))
    if wanted.find:
        jobs = jobs.found_by(wanted.find)
    for name in ("machine", "substrate"):
        if (value := getattr(wanted, name)) is not None:
            jobs = jobs.filter(**{name: value})
    if wanted.customer:
        jobs = jobs.filter(customer=wanted.customer)
    return jobs.order_by(*_ORDER[wanted.sort])


def page_of(wanted: Wanted) -> tuple[list[Job], bool]:
    """Return the tickets of a page, and whether more follow."""
    begin = (wanted.page - 1) * PAGE
    jobs = list(found(wanted)[begin : begin + PAGE + 1])
    return jobs[:PAGE], len(jobs) > PAGE


def customers() -> list[str]:
    """Return for whom there are tickets, by name."""
    names = Job.objects.exclude(customer="").order_by("customer")
    return list(names.values_list("customer", flat=True).distinct())


def _in_state(state: str) -> Q:
    if state == "away":
        return Q(put_away_at__isnull=False)
    here = Q(put_away_at=None)
    if state == "burned":
        return here & Q(burned_at__isnull=False)
    to_do = here & Q(burned_at=None)
    checked = Q(checked_state=F("head__digest")) & ~Q(checked_state="")
    return {"": to_do, "open": to_do & ~checked, "ready": to_do & checked}[state]


def _due(due: str) -> Q:
    today = timezone.localdate()
    return {
        "": Q(),
        "late": Q(due__lt=today),
        "soon": Q(due__lte=today + timedelta(days=_SOON_DAYS)),
        "none": Q(due=None),
    }[due]
