"""Job files opened again."""

from typing import BinaryIO

from django.db import transaction

from engraving.jobspec import JobSpec
from engraving.jobspec.job_file import read_job_zip
from workshop.jobs.models import Job
from workshop.jobs.pictures.intake import keep_artwork, page_size
from workshop.jobs.pictures.store import artwork_path, keep_font
from workshop.jobs.revisions.writer import change, updated
from workshop.jobs.ticket.lifecycle import open_job


@transaction.atomic
def open_job_file(stream: BinaryIO) -> Job:
    """Open a ticket from a job zip.

    Raises
    ------
    EngravingError
        When it is damaged or has no artwork.
    """
    found = read_job_zip(stream)
    spec = found.spec
    artwork = keep_artwork(spec.artwork.file or "artwork", [found.picture or b""])
    for name, data in found.fonts.items():
        keep_font(f"{name[:8]}.ttf", data)
    for name, data in found.pictures.items():
        keep_artwork(f"{name[:8]}", [data])
    spec = _with_pictures_at_hand(spec)
    width, height = page_size(artwork, spec.artwork.page)
    job = open_job(artwork, spec.name)
    part = {
        **spec.artwork.model_dump(),
        "sha256": artwork.sha256,
        "width_px": width,
        "height_px": height,
    }
    spec = updated(spec, {"artwork": part})
    none: dict[str, int | None] = dict.fromkeys(("machine", "substrate", "blank", "recipe"))
    none["artwork"] = artwork.pk
    change(job, spec, "Opened from a job file", "", none)
    return job


def _with_pictures_at_hand(spec: JobSpec) -> JobSpec:
    """Return a job whose pockets name only pictures that are kept here."""
    if spec.fixture is None:
        return spec
    pockets = [
        one
        if one.artwork is None or artwork_path(one.artwork.sha256).is_file()
        else one.model_copy(update={"artwork": None})
        for one in spec.fixture.pockets
    ]
    fixture = spec.fixture.model_copy(update={"pockets": tuple(pockets)})
    return spec.model_copy(update={"fixture": fixture})
