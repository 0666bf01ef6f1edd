"""Job files and files of G-code opened again."""

import re
from collections.abc import Iterable
from pathlib import Path
from typing import BinaryIO

from django.conf import settings
from django.db import transaction

from engraving.errors import InputError, JobError
from engraving.gcode import read_job
from engraving.jobspec import JobSpec
from engraving.jobspec.job_file import read_job_zip
from workshop.jobs.models import Artwork, GcodeFile, Job
from workshop.jobs.pictures.intake import keep_artwork, page_size
from workshop.jobs.pictures.store import artwork_path, incoming, keep_font
from workshop.jobs.revisions.writer import change, updated
from workshop.jobs.ticket.lifecycle import open_job

GCODE_ENDINGS = ("gcode", "gc", "nc", "ngc", "tap", "g")
MOST_GCODE = 2_000_000_000
_HEAD = 1 << 20
_GCODE = re.compile(rb"\s*(?:%\s*)?(?:[;(][^\n]*\n\s*|N\d+\s*)*[GMT]\d+(?!\w*[a-z]{2})")


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
    return _opened(spec, artwork, "Opened from a job file")


def _opened(spec: JobSpec, artwork: Artwork, why: str) -> Job:
    """Open a ticket for a description that came in, with its picture."""
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
    change(job, spec, why, "", none)
    return job


def is_gcode(name: str, head: bytes) -> bool:
    """Whether a file looks like G-code: by its name, or by how it begins."""
    if name.lower().rpartition(".")[2] in GCODE_ENDINGS:
        return True
    return _GCODE.match(head) is not None


def gcode_path(sha256: str) -> Path:
    """Return where a file of G-code lies."""
    return Path(settings.MEDIA_ROOT) / "gcode" / f"{sha256}.gcode"


@transaction.atomic
def open_gcode(name: str, chunks: Iterable[bytes]) -> Job | GcodeFile:
    """Open a file of G-code: ours as its job, any other as what it is.

    A job whose picture is not kept here is kept as a file that asks for it.

    Raises
    ------
    EngravingError
        When the job in its comments is damaged, or it is no text.
    """
    with incoming(chunks) as (path, digest):
        size = path.stat().st_size
        if size > MOST_GCODE:
            raise JobError(f"The file is larger than {MOST_GCODE // 1_000_000_000} GB.")
        with path.open("rb") as stream:
            head = stream.read(_HEAD)
        if b"\0" in head:
            raise JobError("This is no G-code: it is no text.")
        spec = read_job(head)
        if spec is not None and (kept := _picture_of(spec)):
            return _opened(spec, kept, f"Opened from {name[:150]}")
        target = gcode_path(digest)
        target.parent.mkdir(parents=True, exist_ok=True)
        if not target.is_file():
            path.replace(target)
    wants = spec.artwork.file or "its picture" if spec is not None else ""
    return GcodeFile.objects.create(
        sha256=digest, name=name[:200], size_bytes=size, wants=wants[:200]
    )


def _picture_of(spec: JobSpec) -> Artwork | None:
    known = Artwork.objects.filter(sha256=spec.artwork.sha256).first()
    return known if known and artwork_path(known.sha256).is_file() else None


def open_with_picture(file: GcodeFile, name: str, chunks: Iterable[bytes]) -> Job:
    """Open the job in a file of G-code with the picture it asked for.

    Raises
    ------
    EngravingError
        When the file holds no job, or the picture is another one.
    """
    with gcode_path(file.sha256).open("rb") as stream:
        spec = read_job(stream.read(_HEAD))
    if spec is None:
        raise JobError("There is no job in this file's comments.")
    artwork = keep_artwork(name, chunks)
    was, size = spec.artwork, page_size(artwork, spec.artwork.page)
    if artwork.sha256 != was.sha256 and size != (was.width_px, was.height_px):
        raise InputError(
            f"This is another picture: it has {size[0]} × {size[1]} pixels, and "
            f"“{was.file}” had {was.width_px} × {was.height_px}.",
            field="picture",
        )
    return _opened(spec, artwork, f"Opened from {file.name[:150]}")


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
