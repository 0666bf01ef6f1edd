"""Job files: ``job.json`` alone, or a zip of it with its artwork and uploaded fonts."""

import json
import lzma
import re
import struct
import zipfile
import zlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import BinaryIO

from engraving.errors import JobError
from engraving.jobspec.job import JobSpec

LARGEST_FILE = 200 * 1024 * 1024
"""Bytes of a picture."""
LARGEST_FONT = 20 * 1024 * 1024
_JOB_NAME = "job.json"
_FONTS = "fonts/"
_FONT_NAME = re.compile(r"fonts/([0-9a-f]{64})")
_PICTURES = "pictures/"
_MOST_FONTS = 24
_LARGEST_JSON = 1 << 24
"""Strokes take room."""


@dataclass(frozen=True)
class JobFile:
    """What a job file holds.

    Attributes
    ----------
    spec : JobSpec
    picture : bytes or None
        The artwork's file.
    fonts : mapping
        Uploaded fonts by their SHA-256.
    pictures : mapping
        Files of the pictures in a fixture's pockets, by their SHA-256.
    """

    spec: JobSpec
    picture: bytes | None
    fonts: Mapping[str, bytes] = field(default_factory=dict)
    pictures: Mapping[str, bytes] = field(default_factory=dict)


def pocket_pictures(spec: JobSpec) -> list[str]:
    """Return the SHA-256 of each picture of a fixture's pockets, each once."""
    pockets = spec.fixture.pockets if spec.fixture else ()
    named = (one.artwork.sha256 for one in pockets if one.artwork)
    return sorted({name for name in named if name})


def write_job_zip(
    target: BinaryIO,
    spec: JobSpec,
    artwork: bytes | None,
    fonts: Mapping[str, bytes] | None = None,
    pictures: Mapping[str, bytes] | None = None,
) -> None:
    """Write a job, its pictures and its uploaded fonts as a zip, not squeezed."""
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr(_JOB_NAME, job_json(spec))
        if artwork is not None:
            archive.writestr(_safe_name(spec.artwork.file), artwork)
        for name, data in (fonts or {}).items():
            archive.writestr(f"{_FONTS}{name}", data)
        for name, data in (pictures or {}).items():
            archive.writestr(f"{_PICTURES}{name}", data)


def job_json(spec: JobSpec) -> str:
    """Return a job as indented JSON."""
    return json.dumps(spec.model_dump(mode="json"), indent=2, ensure_ascii=False) + "\n"


def read_job_file(path: Path) -> JobFile:
    """Return what a ``.zip`` or ``.json`` file holds.

    A ``.json`` file's artwork is looked for beside it.

    Raises
    ------
    JobError
        When the file is missing, damaged, or holds no job.
    """
    if not path.is_file():
        raise JobError(f"There is no file “{path.name}”.")
    if zipfile.is_zipfile(path):
        with path.open("rb") as stream:
            return read_job_zip(stream)
    if path.stat().st_size > _LARGEST_JSON:
        raise JobError("This is no job file: it is too large to be one.")
    spec = JobSpec.from_json(path.read_bytes())
    beside = path.parent / _safe_name(spec.artwork.file)
    return JobFile(spec, beside.read_bytes() if beside.is_file() else None)


_DAMAGED = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, struct.error, EOFError, KeyError,
    OSError, OverflowError, RuntimeError, ValueError,
)  # fmt: skip
"""All that reading a zip raises where its bytes are not what they say."""


def read_job_zip(stream: BinaryIO) -> JobFile:
    """Return what a zip holds.

    Raises
    ------
    JobError
        When the zip is damaged or holds no job.
    """
    try:
        with zipfile.ZipFile(stream) as archive:
            spec = JobSpec.from_json(_member(archive, _JOB_NAME, _LARGEST_JSON))
            name = _safe_name(spec.artwork.file)
            held = name in archive.namelist()
            picture = _member(archive, name, LARGEST_FILE) if held else None
            return JobFile(spec, picture, _fonts(archive), _pictures(archive, spec))
    except _DAMAGED:
        raise JobError(
            f"This zip is damaged or holds no {_JOB_NAME}; export the job again."
        ) from None


def _fonts(archive: zipfile.ZipFile) -> dict[str, bytes]:
    found = [_FONT_NAME.fullmatch(name) for name in archive.namelist()]
    names = [match[1] for match in found if match][:_MOST_FONTS]
    return {name: _member(archive, f"{_FONTS}{name}", LARGEST_FONT) for name in names}


def _pictures(archive: zipfile.ZipFile, spec: JobSpec) -> dict[str, bytes]:
    held = set(archive.namelist())
    return {
        name: _member(archive, f"{_PICTURES}{name}", LARGEST_FILE)
        for name in pocket_pictures(spec)
        if f"{_PICTURES}{name}" in held
    }


def _member(archive: zipfile.ZipFile, name: str, most: int) -> bytes:
    if archive.getinfo(name).file_size > most:
        raise JobError(f"“{name}” in the zip is too large.")
    return archive.read(name)


def _safe_name(name: str) -> str:
    """Return a bare file name, so that no path leads out of the folder."""
    return PurePosixPath(name.replace("\\", "/")).name or "artwork"
