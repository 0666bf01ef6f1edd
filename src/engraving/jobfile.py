"""Job files: ``job.json`` alone, or a zip of it with its artwork."""

import json
import zipfile
from pathlib import Path, PurePosixPath
from typing import BinaryIO

from engraving.artwork.reading import LARGEST_FILE
from engraving.errors import JobError
from engraving.spec import JobSpec

_JOB_NAME = "job.json"
_LARGEST_JSON = 1 << 20


def write_job_zip(target: BinaryIO, spec: JobSpec, artwork: bytes | None) -> None:
    """Write a job and its artwork as a zip; pictures are stored, not squeezed."""
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr(_JOB_NAME, job_json(spec))
        if artwork is not None:
            archive.writestr(_safe_name(spec.artwork.file), artwork)


def job_json(spec: JobSpec) -> str:
    """Return a job as indented JSON."""
    return json.dumps(spec.model_dump(mode="json"), indent=2, ensure_ascii=False) + "\n"


def read_job_file(path: Path) -> tuple[JobSpec, bytes | None]:
    """Return the job in a ``.zip`` or ``.json`` file, and its artwork's bytes.

    A ``.json`` file's artwork is looked for beside it. None when there is none.

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
    return spec, beside.read_bytes() if beside.is_file() else None


def read_job_zip(stream: BinaryIO) -> tuple[JobSpec, bytes | None]:
    """Return the job in a zip, and its artwork's bytes.

    Raises
    ------
    JobError
        When the zip is damaged or holds no job.
    """
    try:
        with zipfile.ZipFile(stream) as archive:
            spec = JobSpec.from_json(_member(archive, _JOB_NAME, _LARGEST_JSON))
            name = _safe_name(spec.artwork.file)
            if name not in archive.namelist():
                return spec, None
            return spec, _member(archive, name, LARGEST_FILE)
    except (zipfile.BadZipFile, KeyError, OSError, RuntimeError, NotImplementedError):
        raise JobError(
            f"This zip is damaged or holds no {_JOB_NAME}; export the job again."
        ) from None


def _member(archive: zipfile.ZipFile, name: str, most: int) -> bytes:
    if archive.getinfo(name).file_size > most:
        raise JobError(f"“{name}” in the zip is too large.")
    return archive.read(name)


def _safe_name(name: str) -> str:
    """Return a bare file name, so that no path leads out of the folder."""
    return PurePosixPath(name.replace("\\", "/")).name or "artwork"
