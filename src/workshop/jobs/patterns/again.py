"""The same again: another picture with all the settings of a ticket."""

from django.db import transaction

from engraving.errors import InputError
from engraving.jobspec import FixturePart, JobSpec
from workshop.jobs.models import Artwork, Job
from workshop.jobs.pictures.intake import page_size
from workshop.jobs.revisions.writer import begin, relations_of, spec_of
from workshop.jobs.stations.artwork.changes import with_picture
from workshop.jobs.stations.tone.changes import fitted
from workshop.jobs.ticket.lifecycle import OF_ONE_STATE, title_of


def like(job: Job, artwork: Artwork, *, fit_tone: bool) -> Job:
    """Open a ticket for another picture, made like this one in all else.

    Parameters
    ----------
    fit_tone : bool
        Fit the tone to the new picture; else it is the old one's.

    Raises
    ------
    InputError
        When the ticket burns a swatch card, which has no picture.
    """
    spec = spec_of(job)
    if spec.card is not None:
        raise InputError("A swatch card has no picture that another could stand in for.")
    name = title_of(artwork)
    spec = with_other_picture(spec, artwork).model_copy(update={"name": name})
    if fit_tone:
        spec = with_fitted_tone(spec)
    with transaction.atomic():
        twin = Job.objects.create(
            number=Job.objects.next_number(),
            name=name,
            customer=job.customer,
            artwork=artwork,
            pattern=job.pattern,
            pattern_version=job.pattern_version,
            visited=[one for one in job.visited if one not in OF_ONE_STATE],
            station=job.station if job.station not in OF_ONE_STATE else "tone",
        )
        relations = relations_of(job) | {"artwork": artwork.pk}
        begin(twin, spec, f"Like {job.number:04d}", relations)
    return twin


def with_other_picture(spec: JobSpec, artwork: Artwork) -> JobSpec:
    """Return a job with another picture, in all of its pockets."""
    fixture = spec.fixture
    if fixture is not None:
        spec = spec.model_copy(update={"fixture": _empty(fixture)})
    return with_picture(spec, artwork, 0, *page_size(artwork, 0))


def _empty(fixture: FixturePart) -> FixturePart:
    pockets = tuple(
        one.model_copy(update={"artwork": None, "tone": None}) for one in fixture.pockets
    )
    picture = "same" if fixture.picture == "own" else fixture.picture
    return fixture.model_copy(update={"pockets": pockets, "picture": picture})


def with_fitted_tone(spec: JobSpec) -> JobSpec:
    """Return a job with the tone that is fitted to its picture and substrate."""
    return spec.model_copy(update={"tone": fitted(spec)})
