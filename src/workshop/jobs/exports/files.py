"""Files of a job for others than its machine: dots, proof, sheet, job file."""

import re
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from PIL import Image

from engraving.errors import InputError
from engraving.jobspec import JobSpec
from engraving.jobspec.job_file import pocket_pictures, write_job_zip
from engraving.lettering import FONTS
from engraving.motion import Estimate
from engraving.png import CLEAR, write_png
from engraving.units import pixels_per_metre, png_density
from workshop.jobs.exports.job_sheet import job_sheet
from workshop.jobs.exports.naming import plain_name
from workshop.jobs.exports.proof_sheet import proof_sheet
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.pictures.pieces import unrolled
from workshop.jobs.pictures.store import artwork_path, read_font
from workshop.jobs.revisions.writer import spec_of

KINDS = {
    "dots": ("png", "image/png"),
    "dots-bmp": ("bmp", "image/bmp"),
    "dots-tiff": ("tiff", "image/tiff"),
    "toned": ("png", "image/png"),
    "proof": ("png", "image/png"),
    "proof-sheet": ("pdf", "application/pdf"),
    "job-sheet": ("pdf", "application/pdf"),
    "original": ("", "application/octet-stream"),
    "job": ("zip", "application/zip"),
}
"""Each file's ending and type; the original keeps its own name."""

SMALLEST_PROOF_PX, LARGEST_PROOF_PX, PROOF_PX = 200, 8000, 2000
_BAND_ROWS = 256


@dataclass(frozen=True)
class RunSheet:
    """What the Run station says of the G-code."""

    estimate: Estimate
    size_bytes: int

    @property
    def burn_m(self) -> float:
        """Burned length in metres."""
        return self.estimate.burn_mm / 1000


def run_sheet(spec: JobSpec) -> RunSheet:
    """Return time, moves and file size of a job's G-code."""
    return RunSheet(*pipeline().sized(spec))


def file_name(job: Job, kind: str) -> str:
    """Return a tidy file name."""
    if kind == "original":
        return re.sub(r"[^\w. -]", "_", job.artwork.name) or "original"
    middle = "" if kind == "job" else f"-{kind.split('-', maxsplit=1)[0]}"
    return f"{plain_name(job)}{middle}.{KINDS[kind][0]}"


def write_file(
    job: Job,
    kind: str,
    target: BinaryIO,
    longest_px: int = PROOF_PX,
    address: str = "",
) -> None:
    """Write one of a job's files.

    Parameters
    ----------
    job : Job
    kind : str
        Of `KINDS`.
    target : binary stream
    longest_px : int
        The proof's longer side.
    address : str
        Of the job's ticket, for its sheet.
    """
    if kind.endswith("-sheet"):
        sheet = proof_sheet(job) if kind == "proof-sheet" else job_sheet(job, address)
        target.write(sheet)
        return
    spec = spec_of(job)
    if kind.startswith("dots"):
        _write_dots(spec, KINDS[kind][0], target)
    elif kind == "toned":
        image = Image.fromarray(pipeline().finished(spec))
        image.save(target, "PNG", dpi=png_density(spec.size.cell_mm))
    elif kind == "proof":
        _write_proof(spec, longest_px, target)
    elif kind == "original":
        target.write(artwork_path(spec.artwork.sha256).read_bytes())
    else:
        source: Path = artwork_path(spec.artwork.sha256)
        used = {line.font for line in spec.lettering.lines} - set(FONTS)
        fonts = {name: read_font(name) for name in sorted(used)}
        pockets = {name: artwork_path(name).read_bytes() for name in pocket_pictures(spec)}
        write_job_zip(target, spec, source.read_bytes(), fonts, pockets)


def _write_dots(spec: JobSpec, ending: str, target: BinaryIO) -> None:
    """Write the burned dots, black = burn, at their physical resolution."""
    dots, dpi = pipeline().burned(spec), png_density(spec.size.cell_mm)
    if ending == "png":
        dots.write_png(target, spec.size.cell_mm)
    elif ending == "bmp":
        dots.image().save(target, "BMP", dpi=dpi)
    else:
        packing = "group4" if dots.power is None else "tiff_lzw"
        dots.image().save(target, "TIFF", dpi=dpi, compression=packing)


def _write_proof(spec: JobSpec, longest_px: int, target: BinaryIO) -> None:
    """Write the piece as a PNG that prints at true size, clear beyond its edge.

    Raises
    ------
    InputError
        When the size makes no picture.
    """
    if not SMALLEST_PROOF_PX <= longest_px <= LARGEST_PROOF_PX:
        raise InputError(
            f"A proof is {SMALLEST_PROOF_PX} to {LARGEST_PROOF_PX} pixels long, "
            f"not {longest_px}.",
            field="pixels",
        )
    piece = unrolled(spec, longest_px)
    height, width, _ = piece.shape
    apart = max(spec.blank.width_mm, spec.blank.height_mm) / longest_px
    density = pixels_per_metre(apart)
    lines = piece.reshape(height, -1)
    bands = (lines[top : top + _BAND_ROWS] for top in range(0, height, _BAND_ROWS))
    write_png(target, (width, height), (8, CLEAR), (density, density), bands)
