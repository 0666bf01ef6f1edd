"""A disk that runs full, and a program that goes while a picture comes in."""

import http.client
import subprocess
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from io import BytesIO
from pathlib import Path
from urllib.parse import urlsplit

import numpy as np
from PIL import Image
from visitor import FORM, JOB, Visitor, asked, burn, ended, form_of

from support.running import fill, running_workshop, wait_for_answer

_DISK_MIB = 400
_PAGES = (
    "/",
    f"/jobs/{JOB}/tone/",
    f"/jobs/{JOB}/check/",
    "/bench/machines/1/",
    "/bench/log/",
)
_MADE_FOR_IT = "no right to have a small disk: not measured"


def _picture() -> bytes:
    """Return a picture of some megabytes."""
    shades = np.random.default_rng(3).integers(0, 255, (1500, 2000), np.uint8)
    Image.fromarray(shades).save(out := BytesIO(), "png")
    return out.getvalue()


@contextmanager
def _small_disk() -> Iterator[Path | None]:
    """Give a disk of its own, None where the system does not let us have one."""
    with tempfile.TemporaryDirectory() as name:
        disk = ["mount", "-t", "tmpfs", "-o", f"size={_DISK_MIB}m", "none", name]
        if subprocess.run(disk, check=False, capture_output=True).returncode:
            yield None
            return
        try:
            yield Path(name)
        finally:
            subprocess.run(["umount", "-l", name], check=True)  # noqa: S607


def _fill_up(path: Path) -> None:
    """Write until nothing more goes onto the disk."""
    with path.open("wb", buffering=0) as stream:
        for size in (1 << 20, 1 << 12):
            try:
                while stream.write(b"\0" * size) == size:
                    pass
            except OSError:
                continue


def _revisions(folder: Path) -> int:
    return int(asked(folder, "select count(*) from jobs_revision")[0])


def full() -> tuple[str, int]:
    """Let the disk run full amid a burn; return what was seen, and what went wrong."""
    with _small_disk() as disk:
        if disk is None:
            return f"disk full: {_MADE_FOR_IT}", 0
        folder, filler = disk / "var", disk / "filler"
        fill(folder)
        with running_workshop(folder, pace=4) as running:
            visitor = Visitor(running.address)
            pk = burn(visitor, folder)
            before = _revisions(folder)
            _fill_up(filler)
            answers = [
                visitor.said(f"/jobs/{JOB}/tone/", b"gamma=1.35&changed=gamma"),
                visitor.upload("full.png", _picture()),
                visitor.said(f"/jobs/{JOB}/copy/", b""),
            ]
            pages = [visitor.looks(path) for path in _PAGES]
            time.sleep(3)
            filler.unlink()
            state, wrong, _ = ended(folder, pk)
            after = _revisions(folder)
            again = visitor.post(f"/jobs/{JOB}/tone/", gamma="1.3", changed="gamma")
    told = sum(status == 507 and "disk is full" in said for status, said in answers)
    bad = [
        told != len(answers),
        set(pages) != {200},
        (state, wrong) != ("done", 0),
        after != before,
        again != 200,
    ]
    return (
        f"disk full amid a burn: {told} of {len(answers)} changes told so "
        f"({', '.join(str(status) for status, _ in answers)}), pages "
        f"{pages}, revisions {before} before and {after} after; the burn ended "
        f"{state}, {wrong} dots off; with room again "
        f"a change is answered {again}"
    ), sum(bad)


def broken_upload() -> tuple[str, int]:
    """Kill the web server with half a picture in; return what was seen, what is wrong."""
    body = form_of("half.png", _picture())
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "var"
        fill(folder)
        with running_workshop(folder) as running:
            visitor = Visitor(running.address)
            visitor.get("/")
            kept = _kept(folder)
            where = urlsplit(running.address)
            line = http.client.HTTPConnection(where.hostname or "", where.port, timeout=20)
            line.putrequest("POST", "/jobs/new/")
            told = {"Content-Type": FORM, "Content-Length": str(len(body))}
            for word, value in (visitor.headers | told).items():
                line.putheader(word, value)
            line.endheaders(body[: len(body) // 2])
            time.sleep(0.5)
            running.kill("web")
            line.close()
            running.again("web")
            wait_for_answer(running.address)
            left = _kept(folder) - kept
            status, _ = visitor.upload("half.png", _picture())
            [jobs] = asked(folder, "select count(*) from jobs_job where name = 'half'")
    return (
        f"web server killed with half a picture in: {len(left)} files left over; put in "
        f"again it is answered {status}, {jobs} ticket of it"
    ), len(left) + (status != 204) + (jobs != 1)


def _kept(folder: Path) -> set[Path]:
    return {path for path in (folder / "files").rglob("*") if path.is_file()}
