"""Pictures come in: kept once, read once, ready for the table."""

from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from pathlib import Path

from django.db import transaction

from engraving.artwork import Artwork as Read
from engraving.artwork.reading import open_picture
from engraving.jobspec import ArtworkPart, JobSpec
from workshop.jobs.models import Artwork, Job
from workshop.jobs.pictures.engine import pipeline, stage_cache
from workshop.jobs.pictures.store import artwork_path, incoming, settle
from workshop.tasting import taste

_PLAIN = (b"\x89PNG", b"\xff\xd8\xff", b"BM")


def keep_artwork(name: str, chunks: Iterable[bytes]) -> Artwork:
    """Store an uploaded picture and return its record.

    Raises
    ------
    EngravingError
        When it cannot be read; nothing is kept then.
    """
    with incoming(chunks) as (path, digest):
        known = Artwork.objects.filter(sha256=digest).first()
        return known or _record(name, path, digest)


def _record(name: str, path: Path, digest: str) -> Artwork:
    if not _plain(path):
        taste("picture", path)
    found = read_page(path, digest, 0)
    across, down = found.dpi or (None, None)
    facts = {
        "name": name[:200],
        "size_bytes": settle(path, digest),
        "width_px": found.width_px,
        "height_px": found.height_px,
        "format": found.format,
        "mode": found.mode,
        "dpi_x": across,
        "dpi_y": down,
        "two_level": found.two_level,
        "dotted": found.dotted,
        "smeared": found.smeared,
        "transparent": found.alpha is not None,
        "pages": found.pages,
        "notes": list(found.notes),
    }
    # The same file may come in twice at once: the second finds what the first made.
    return Artwork.objects.get_or_create(sha256=digest, defaults=facts)[0]


def _plain(path: Path) -> bool:
    """Whether a file is of a kind whose readers are small, and read by everybody."""
    with path.open("rb") as stream:
        return stream.read(8).startswith(_PLAIN)


def read_page(path: Path, digest: str, page: int) -> Read:
    """Read a page once, for the record and for the first pictures of it."""
    opened = open_picture(path, page)
    kept, stages = stage_cache(), pipeline()
    spec = JobSpec(artwork=ArtworkPart(sha256=digest, page=page))
    found = kept.get(stages.artwork.key(spec), opened.artwork)
    # Both are asked for a moment later; they are made beside the rest, the sooner first.
    _beside().submit(stages.likely_depth, spec)
    _beside().submit(kept.get, stages.likeness.key(spec), opened.likeness)
    return found


@cache
def _beside() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(1, "beside")


def page_size(artwork: Artwork, page: int) -> tuple[int, int]:
    """Return width and height in pixels of a page.

    Raises
    ------
    EngravingError
        When there is no such page, or it cannot be read.
    """
    if page == 0:
        return artwork.width_px, artwork.height_px
    found = read_page(artwork_path(artwork.sha256), artwork.sha256, page)
    return found.width_px, found.height_px


def add_sheet(job: Job, artwork: Artwork) -> None:
    """Put another picture on a ticket, to choose from."""
    with transaction.atomic():
        if artwork.pk != job.artwork_id:
            job.sheets.add(job.artwork, artwork)


def sheets_of(job: Job) -> list[tuple[Artwork, int]]:
    """Return every page of every picture of a ticket; one alone is no choice."""
    artworks = {item.pk: item for item in [*job.sheets.all(), job.artwork]}
    ordered = sorted(artworks.values(), key=lambda item: item.pk)
    pages = [(item, page) for item in ordered for page in range(min(item.pages, 60))]
    return pages if len(pages) > 1 else []


def file_cell_mm(spec: JobSpec, job: Job) -> tuple[float, float] | None:
    """Return how far the file's pixels lie apart at its resolution, as it is turned."""
    art = job.artwork
    return spec.artwork.cell_at((art.dpi_x or 0, art.dpi_y or 0))
