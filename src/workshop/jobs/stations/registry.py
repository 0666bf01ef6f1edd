"""The stations by name, and the way a change of one is made."""

from typing import Any

from django.http import QueryDict

from engraving.jobspec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.pictures.windows import begin
from workshop.jobs.revisions.writer import (
    ON_THE_TICKET,
    StaleError,
    change,
    checked,
    rename,
    spec_of,
    tell,
)
from workshop.jobs.stations.artwork.station import STATION as ARTWORK
from workshop.jobs.stations.blank.station import STATION as BLANK
from workshop.jobs.stations.burn.station import STATION as BURN
from workshop.jobs.stations.card.changes import relaid
from workshop.jobs.stations.card.station import STATION as CARD
from workshop.jobs.stations.card.station import TONE as CARD_TONE
from workshop.jobs.stations.dots.station import STATION as DOTS
from workshop.jobs.stations.edit import Edit
from workshop.jobs.stations.form import StationForm
from workshop.jobs.stations.outlines.station import STATION as OUTLINES
from workshop.jobs.stations.place.station import STATION as PLACE
from workshop.jobs.stations.station import Station
from workshop.jobs.stations.tone.station import STATION as TONE
from workshop.shell.services import Error

_BY_SLUG = {
    one.slug: one
    for one in (
        ARTWORK,
        BLANK,
        TONE,
        DOTS,
        BURN,
        OUTLINES,
        PLACE,
        Station("check"),
        Station("run"),
    )
}
_OF_A_CARD = {"artwork": CARD, "tone": CARD_TONE}

_TRIES = 4
"""So often a change is made anew of a job that changes meanwhile; then it is laid over."""


def station_of(spec: JobSpec, slug: str) -> Station:
    """Return a station; a swatch card is described where the artwork is."""
    own = _OF_A_CARD if spec.card is not None else {}
    return own.get(slug, _BY_SLUG[slug])


def form_of(job: Job, station: str) -> type[StationForm] | None:
    """Return a station's form; None where nothing of the job is changed there."""
    return station_of(spec_of(job), station).form


def station_values(job: Job, station: str) -> dict[str, Any]:
    """Return the values of a station's form."""
    spec = spec_of(job)
    return station_of(spec, station).show(spec, job)


def change_station(
    job: Job, station: str, changes: dict[str, Any], *, apart: bool = False
) -> bool:
    """Apply the changed fields of a station; return whether anything changed.

    Parameters
    ----------
    apart : bool
        It is no stroke with what came before, which another page did.

    Raises
    ------
    EngravingError
        When the result is no valid job; ``field`` names the value at fault.
    """
    if station == "artwork" and {"name", *ON_THE_TICKET} & set(changes):
        said = {field: changes[field] for field in ON_THE_TICKET if field in changes}
        rename(job, changes.get("name", ""), **said)
    seen = spec_of(job)
    label, touched = _words(station_of(seen, station), changes)
    for tries in range(_TRIES):
        theirs, edit = spec_of(job), _edited(job, station, changes)
        stroke = "" if apart or tries else touched
        try:
            done = change(
                job, edit.spec, label, stroke, edit.relations,
                only_as_seen=tries < _TRIES - 1,
            )  # fmt: skip
        except StaleError:
            # Made anew of the job as it is now: what follows from a field follows again.
            job.refresh_from_db()
            continue
        if tries and done:
            tell(seen, theirs, edit.spec)
        break
    if station in ("artwork", "tone", "dots"):
        begin(job.number, edit.spec)
    return done


LOOKED_AT = frozenset({"artwork", "tone", "dots"})
"""Stations whose changes are looked at before they are written."""


def as_typed(job: Job, station: str, posted: QueryDict) -> JobSpec | None:
    """Return a job with all that a page has typed at a station; nothing is written.

    None where some of it is refused, or where there is no picture to look at.
    """
    kind = form_of(job, station)
    if kind is None or spec_of(job).card is not None:
        return None
    form = kind.of(posted, station_values(job, station))
    changes = form.changes()
    if form.errors:
        return None
    try:
        return checked(_edited(job, station, changes).spec)
    except Error:
        return None


def _edited(job: Job, station: str, changes: dict[str, Any]) -> Edit:
    edit = Edit(spec_of(job), dict(changes), job)
    station_of(edit.spec, station).apply(edit)
    if edit.spec.card is not None:
        edit.spec, artwork = relaid(edit.spec)
        edit.relations["artwork"] = artwork.pk
    return edit


def _words(station: Station, changes: dict[str, Any]) -> tuple[str, str]:
    """Return what a change is called, and what it touched."""
    said = [name for name in sorted(changes) if name not in _SAY_HOW]
    touched = "" if station.one_each & set(changes) else f"{station.slug}:{','.join(said)}"
    words = dict.fromkeys(station.labels.get(name, _plain(name)) for name in said)
    return ", ".join(words) or station.slug, touched


def _plain(name: str) -> str:
    """Return a field's name as words."""
    bare = name.removesuffix("_mm").removesuffix("_deg").removesuffix("_dots")
    return bare.replace("_", " ").strip().capitalize()


_SAY_HOW = {"ties"}
"""Fields that say how others are meant."""
