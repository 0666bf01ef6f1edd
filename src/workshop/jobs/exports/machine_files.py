"""G-code files for a machine without a link: named, cut and checked as its store wants."""

import hashlib
import tempfile
import zipfile
from collections.abc import Iterator, Sequence
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, field
from typing import BinaryIO, Protocol

from engraving.errors import InputError
from workshop.jobs.exports.naming import plain_name
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import spec_of

SUMS = "sums.txt"
_CHUNK = 1 << 20
_KINDS = {True: "application/zip", False: "text/plain"}


class Copy(Protocol):
    """A file that came back from a store."""

    name: str | None

    def read(self, size: int = -1, /) -> bytes:
        """Return its next bytes."""


@dataclass
class MachineFiles:
    """A job's files, open, in the order they are burned.

    Attributes
    ----------
    names : list of str
    streams : list of binary stream
    """

    names: list[str] = field(default_factory=list)
    streams: list[BinaryIO] = field(default_factory=list)


@dataclass(frozen=True)
class Checked:
    """A copy that was held against what was written."""

    name: str
    good: bool
    says: str


@contextmanager
def machine_files(job: Job, *, by_pocket: bool = False) -> Iterator[MachineFiles]:
    """Give a job's files, written and read again, for as long as they are wanted.

    Raises
    ------
    EngravingError
        When they cannot be made; see `engraving.gcode.write_parts`.
    """
    with ExitStack() as kept:
        found = MachineFiles()

        def opened(_: int) -> BinaryIO:
            found.streams.append(kept.enter_context(tempfile.TemporaryFile()))
            return found.streams[-1]

        parts = pipeline().write_parts(spec_of(job), opened, by_pocket=by_pocket)
        found.names = part_names(job, len(parts))
        for stream in found.streams:
            stream.seek(0)
        yield found


def part_names(job: Job, many: int) -> list[str]:
    """Return what a job's files are called on its machine.

    Names of 8 and 3 characters are J, the ticket's number, and the part's in two figures.
    """
    machine = spec_of(job).machine
    ending = machine.file_ending
    if machine.short_names:
        if job.number > _MOST_SHORT:
            raise InputError("The ticket's number is too long for a name of 8 characters.")
        return [f"J{job.number:04d}{at + 1:02d}.{ending[:3]}".upper() for at in range(many)]
    stem = plain_name(job)
    if many == 1:
        return [f"{stem}.{ending}"]
    return [f"{stem}-{at + 1}of{many}.{ending}" for at in range(many)]


_MOST_SHORT = 99999


def write_download(
    job: Job, target: BinaryIO, *, by_pocket: bool = False
) -> tuple[str, str]:
    """Write the file, or a zip of the files with their sums; return name and type."""
    with machine_files(job, by_pocket=by_pocket) as files:
        if len(files.names) == 1:
            target.writelines(_chunks(files.streams[0]))
            return files.names[0], _KINDS[False]
        _zip(files, target)
    return f"{plain_name(job)}.zip", _KINDS[True]


def _zip(files: MachineFiles, target: BinaryIO) -> None:
    sums = []
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as packed:
        for name, stream in zip(files.names, files.streams, strict=True):
            sum_of = hashlib.sha256()
            with packed.open(name, "w", force_zip64=True) as inside:
                for chunk in _chunks(stream):
                    inside.write(chunk)
                    sum_of.update(chunk)
            sums.append(f"{sum_of.hexdigest()}  {name}\n")
        packed.writestr(SUMS, "".join(sums))


def _chunks(stream: Copy | BinaryIO) -> Iterator[bytes]:
    while chunk := stream.read(_CHUNK):
        yield chunk


def check_copies(
    job: Job, copies: Sequence[Copy], *, by_pocket: bool = False
) -> list[Checked]:
    """Hold copies, as they came back from a card or a stick, against what is written now.

    Raises
    ------
    EngravingError
        As `machine_files`.
    """
    with machine_files(job, by_pocket=by_pocket) as files:
        ours = {
            name.lower(): (name, stream)
            for name, stream in zip(files.names, files.streams, strict=True)
        }
        found = [_checked(one, ours) for one in copies if (one.name or "") != SUMS]
    missing = [name for name, _ in ours.values()]
    return [*found, *(Checked(name, good=False, says="not chosen") for name in missing)]


def _checked(copy: Copy, ours: dict[str, tuple[str, BinaryIO]]) -> Checked:
    name = copy.name or ""
    known = ours.pop(name.lower(), None)
    if known is None:
        return Checked(name, good=False, says="no file of this job as it is now")
    line, size = 1, 0
    stream = known[1]
    for theirs in _chunks(copy):
        wanted = stream.read(len(theirs))
        if theirs != wanted:
            same = _alike(theirs, wanted)
            line += theirs[:same].count(b"\n")
            if same == len(wanted):
                return Checked(name, good=False, says=f"goes on after line {line - 1}")
            return Checked(name, good=False, says=f"differs from line {line} on")
        line += theirs.count(b"\n")
        size += len(theirs)
    if stream.read(1):
        return Checked(name, good=False, says=f"ends in line {line}; the rest is missing")
    return Checked(name, good=True, says=f"whole, {line - 1} lines")


def _alike(first: bytes, second: bytes) -> int:
    """Return how many bytes two begin with in common."""
    both = min(len(first), len(second))
    if first[:both] == second[:both]:
        return both
    low, high = 0, both
    while low < high:
        middle = (low + high + 1) // 2
        low, high = (
            (middle, high) if first[:middle] == second[:middle] else (low, middle - 1)
        )
    return low
