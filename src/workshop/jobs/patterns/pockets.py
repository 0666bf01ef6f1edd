"""Pictures dropped on a pattern that holds a fixture: into its pockets, load by load."""

from collections.abc import Sequence
from dataclasses import dataclass

from engraving.jobspec import JobSpec
from engraving.place import burning_order
from workshop.jobs.models import Artwork, Job, Pattern
from workshop.jobs.patterns.patterns import open_by
from workshop.jobs.stations.place.fixture import fill_pockets


@dataclass(frozen=True)
class Offered:
    """A pattern on the rack, and how many pictures its fixture holds; 0 without one."""

    pattern: Pattern
    room: int


def listed() -> list[Offered]:
    """Return all patterns, by name."""
    return [Offered(one, room(one)) for one in Pattern.objects.all()]


def room(pattern: Pattern) -> int:
    """Return how many pictures a pattern's fixture holds at a time; 0 for one picture."""
    if "place" not in pattern.parts or not pattern.spec.get("fixture"):
        return 0  # without reading the rest: the rack asks it of every pattern
    spec = JobSpec.model_validate(pattern.spec)
    if spec.fixture is None or spec.fixture.picture == "across":
        return 0
    return len(burning_order(spec))


def open_load(pattern: Pattern, artworks: Sequence[Artwork], *, fit_tone: bool) -> Job:
    """Open a ticket for one load of a pattern's fixture; empty pockets are left out.

    Parameters
    ----------
    artworks : sequence of Artwork
        One to `room` of them, in burning order.
    fit_tone : bool
        Fit a tone to each picture.

    Raises
    ------
    InputError
        When there are more pictures than pockets.
    """
    job = open_by(pattern, artworks[0], fit_tone=fit_tone)
    fill_pockets(job, list(artworks), fit=fit_tone, rest_off=True)
    return job
