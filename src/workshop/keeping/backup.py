"""Everything in one zip, and back again.

The zip holds the database (copied by SQLite's own online backup, so that nobody has to
stop), all files, each ticket's description as plain JSON besides, and a list of it all
with sizes and sums. What comes back is held against that list before any of it is put in
place.
"""

import hashlib
import json
import shutil
import sqlite3
import tempfile
import time
import zipfile
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path
from typing import Any, BinaryIO

from django.conf import settings
from django.db import OperationalError
from django.utils import timezone

from engraving.errors import InputError
from workshop.jobs.models import Job

FORMAT, VERSION = "old-ember-backup", 1
LIST, BASE = "contents.json", "workshop.sqlite3"
_CHUNK = 1 << 20
_PATIENCE_S = 60.0
_PACKED = {".png", ".jpg", ".jpeg", ".zip", ".webp"}
_LEFT_OUT = ("incoming", "walks")
_BROKEN = "This is no whole backup: {}. Nothing was put in place."


def write_backup(target: BinaryIO) -> dict[str, Any]:
    """Write a backup of everything.

    Parameters
    ----------
    target : binary stream
        Receives a zip.

    Returns
    -------
    dict
        The list of its contents.
    """
    with (
        tempfile.TemporaryDirectory(dir=settings.VAR) as name,
        zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as out,
    ):
        base = Path(name) / BASE
        copy_base(base)
        listed = {BASE: _add(out, BASE, base)}
        for path in _files():
            where = f"files/{path.relative_to(settings.MEDIA_ROOT).as_posix()}"
            listed[where] = _add(out, where, path)
        for where, data in _tickets():
            out.writestr(where, data)
            listed[where] = _facts(len(data), hashlib.sha256(data).hexdigest())
        contents = {
            "format": FORMAT,
            "version": VERSION,
            "made": timezone.now().isoformat(),
            "files": listed,
        }
        out.writestr(LIST, json.dumps(contents, indent=1))
    return contents


def copy_base(path: Path) -> None:
    """Copy the database while others read and write it.

    Raises
    ------
    OperationalError
        When somebody kept it locked for too long.
    """
    name = str(settings.DATABASES["default"]["NAME"])
    until = time.monotonic() + _PATIENCE_S

    def patiently(*_: int) -> None:
        if time.monotonic() > until:
            raise OperationalError("database is locked")

    # A connection of its own: what is open in this one may not hold the copy up.
    with (
        closing(sqlite3.connect(name, uri=name.startswith("file:"))) as base,
        closing(sqlite3.connect(path)) as copy,
    ):
        base.backup(copy, progress=patiently, sleep=0.05)


def _files() -> Iterator[Path]:
    root = Path(settings.MEDIA_ROOT)
    for path in sorted(root.rglob("*")):
        if path.is_file() and path.relative_to(root).parts[0] not in _LEFT_OUT:
            yield path


def _tickets() -> Iterator[tuple[str, bytes]]:
    for job in Job.everything.select_related("head").order_by("number"):
        text = json.dumps(job.spec_data, indent=1, ensure_ascii=False)
        yield f"tickets/{job.number:04d}.json", text.encode()


def _facts(size: int, digest: str) -> dict[str, Any]:
    return {"bytes": size, "sha256": digest}


def _add(out: zipfile.ZipFile, name: str, path: Path) -> dict[str, Any]:
    """Put a file into the zip; return its size and sum, as they went in."""
    how = zipfile.ZIP_STORED if path.suffix in _PACKED else zipfile.ZIP_DEFLATED
    entry = zipfile.ZipInfo.from_file(path, name)
    entry.compress_type = how
    digest, size = hashlib.sha256(), 0
    with path.open("rb") as source, out.open(entry, "w", force_zip64=True) as inside:
        while data := source.read(_CHUNK):
            inside.write(data)
            digest.update(data)
            size += len(data)
    return _facts(size, digest.hexdigest())


def check_backup(source: BinaryIO) -> dict[str, Any]:
    """Hold a backup against its list; return the list.

    Raises
    ------
    InputError
        When it is not whole, or none.
    """
    try:
        with zipfile.ZipFile(source) as zipped:
            contents = json.loads(zipped.read(LIST))
            _check_list(contents, zipped)
            for name, facts in contents["files"].items():
                _check_one(zipped, name, facts)
    except (zipfile.BadZipFile, OSError, EOFError, NotImplementedError) as error:
        raise InputError(_BROKEN.format("the zip is damaged")) from error
    except (KeyError, ValueError, TypeError, AttributeError) as error:
        raise InputError(_BROKEN.format("its list of contents is damaged")) from error
    return dict(contents)


def _check_list(contents: dict[str, Any], zipped: zipfile.ZipFile) -> None:
    if contents["format"] != FORMAT:
        raise InputError(_BROKEN.format("it is of another program"))
    if contents["version"] > VERSION:
        raise InputError(_BROKEN.format("it was made by a newer version of the program"))
    inside = set(zipped.namelist()) - {LIST}
    if inside != set(contents["files"]):
        raise InputError(_BROKEN.format("files are missing, or were added"))
    for name in inside:
        parts = Path(name).parts
        if name.startswith("/") or ".." in parts or "\\" in name or ":" in name:
            raise InputError(_BROKEN.format(f"{name[:60]} would lie elsewhere"))


def _check_one(zipped: zipfile.ZipFile, name: str, facts: dict[str, Any]) -> None:
    digest, size = hashlib.sha256(), 0
    with zipped.open(name) as stream:
        while data := stream.read(_CHUNK):
            digest.update(data)
            size += len(data)
            if size > facts["bytes"]:
                break
    if (size, digest.hexdigest()) != (facts["bytes"], facts["sha256"]):
        raise InputError(_BROKEN.format(f"{name} is not as it was"))


def restore(source: BinaryIO, folder: Path, files: Path | None = None) -> dict[str, Any]:
    """Put a backup into an empty folder.

    Parameters
    ----------
    source : binary stream
        The zip.
    folder : Path
        Where the program keeps its data; it holds neither tickets nor files yet.
    files : Path, optional
        Where pictures, photos and burns lie, if elsewhere; empty too.

    Returns
    -------
    dict
        The list of what was put in place.

    Raises
    ------
    InputError
        When the folder is not empty, or the backup is not whole; nothing is written then.
    """
    files = files or folder / "files"
    for kept in (folder / BASE, files):
        if kept.is_file() or (kept.is_dir() and any(kept.iterdir())):
            raise InputError(
                f"{kept.parent} holds a workshop already; choose an empty folder, so that "
                "nothing is overwritten."
            )
    contents = check_backup(source)
    source.seek(0)
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=folder) as name, zipfile.ZipFile(source) as zipped:
        half = Path(name)
        zipped.extractall(half, list(contents["files"]))
        _check_base(half / BASE)
        if (half / "files").exists():
            if files.is_dir():
                files.rmdir()
            shutil.move(half / "files", files)
        shutil.move(half / BASE, folder / BASE)
    return contents


def _check_base(path: Path) -> None:
    with closing(sqlite3.connect(path)) as base:
        try:
            [found] = base.execute("pragma integrity_check").fetchone()
        except sqlite3.DatabaseError:
            found = "damaged"
    if found != "ok":
        raise InputError(_BROKEN.format("its database is damaged"))
