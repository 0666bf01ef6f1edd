"""What a station is: its form, what it shows, what a change of it does."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from engraving.jobspec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.stations.edit import Edit
from workshop.jobs.stations.form import StationForm


@dataclass(frozen=True)
class Seen:
    """A job as a page looks at it.

    Attributes
    ----------
    job : Job
    spec : JobSpec
    live : bool
        A slider is being moved: what takes long is left for when the hand rests.
    looked : int
        Which operation of the list is open.
    """

    job: Job
    spec: JobSpec
    live: bool = False
    looked: int = 0


def nothing_besides(_seen: Seen) -> dict[str, Any]:
    """Show nothing beside the fields."""
    return {}


@dataclass(frozen=True)
class Station:
    """One step of the work on a ticket.

    Attributes
    ----------
    slug : str
        Its name in addresses.
    form : type of StationForm, optional
        None where nothing of the job is changed there.
    show : callable
        Returns the values of the form's fields.
    apply : callable
        Makes the changes of an `Edit`; everything tied follows there: height
        follows width, pitch follows dpi, x and y follow the anchor.
    besides : callable
        Returns what its template shows beside the form.
    labels : mapping
        What a change of a field is called, where its name does not say it.
    one_each : frozenset
        Fields whose changes are undone one by one, however quickly they follow.
    page : str
        Its template's place among the stations, where it is another one's.
    """

    slug: str
    form: type[StationForm] | None = None
    show: Callable[[JobSpec, Job], dict[str, Any]] = lambda _spec, _job: {}
    apply: Callable[[Edit], None] = lambda _edit: None
    besides: Callable[[Seen], dict[str, Any]] = nothing_besides
    labels: Mapping[str, str] = field(default_factory=dict)
    one_each: frozenset[str] = frozenset()
    page: str = ""

    @property
    def template(self) -> str:
        """Its template, as a rule in the folder of its name."""
        return f"jobs/stations/{self.page or f'{self.slug}/station.html'}"
