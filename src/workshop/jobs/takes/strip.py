"""A contact strip: the same part of several takes side by side, as a job for scrap."""

import io
from dataclasses import dataclass

import numpy as np
from django.db import transaction
from numpy.typing import NDArray
from PIL import Image

from engraving.errors import InputError
from engraving.jobspec import (
    ArtworkPart,
    BlankPart,
    BorderPart,
    JobSpec,
    LetteringPart,
    MaskPart,
    RetouchPart,
    SizePart,
    TextLine,
)
from engraving.units import png_density
from workshop.jobs.models import Job, Take
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.revisions.writer import change, relations_of, spec_of
from workshop.jobs.stations.shelf_items import centre_on_bed
from workshop.jobs.takes.takes import take_spec
from workshop.jobs.ticket.lifecycle import open_job

_GAP_MM = 2.0
_FOOT_MM = 5.0
_CAP_MM = 3.0
_MARGIN_MM = 5.0
_BURN = ("speed_mm_s", "power", "passes", "both_ways")


@dataclass(frozen=True)
class StripPart:
    """The part of the picture that is burned of each take, mm from its middle."""

    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float


def make_strip(job: Job, takes: list[Take], part: StripPart) -> Job:
    """Open a ticket that burns a part of several takes side by side.

    Where the takes burn otherwise, its name says whose speed and power it has.

    Raises
    ------
    InputError
        When fewer than two takes are given, or they cannot lie in one job.
    """
    specs = [take_spec(take) for take in takes]
    _check(takes, specs, part)
    pixels, middles = _laid(specs, part)
    first = specs[0]
    letters = "".join(take.letter for take in takes)
    burns = {tuple(getattr(one.burn, name) for name in _BURN) for one in specs}
    told = f", burned as {takes[0].letter}" if len(burns) > 1 else ""
    with transaction.atomic():
        artwork = keep_artwork(
            f"strip-{job.number:04d}-{letters}.png", [_png(pixels, first)]
        )
        strip = open_job(artwork, f"{job.name}, strip {letters}{told}", job.customer)
        spec = _spec(first, spec_of(strip), pixels.shape, _letters(takes, middles, first))
        # The shelf items of the job it is a trial for; the scrap is no blank of theirs.
        relations = {**relations_of(job), "artwork": artwork.pk, "blank": None}
        change(strip, spec, "Strip of takes", "", relations)
    return strip


def _check(takes: list[Take], specs: list[JobSpec], part: StripPart) -> None:
    if len(takes) < 2:
        raise InputError("A strip needs two takes or more; keep another first.")
    if min(part.width_mm, part.height_mm) < 1 or max(part.width_mm, part.height_mm) > 200:
        raise InputError("The part must be 1 to 200 mm wide and high.", field="width")
    if len({(one.size.cell_mm, one.polarity, one.burns_dark) for one in specs}) > 1:
        raise InputError(
            "These takes have different row pitches or materials; a strip has one of each."
        )
    for take, spec in zip(takes, specs, strict=True):
        if pipeline().dots(spec).power is not None:
            raise InputError(
                f"{take} burns with continuous power, which a strip of dots cannot hold."
            )


def _laid(
    specs: list[JobSpec], part: StripPart
) -> tuple[NDArray[np.uint8], list[tuple[float, float]]]:
    """Return dots of the strip, and each part's middle and foot in dots."""
    along, pitch = specs[0].size.cell_mm
    cols, rows = round(part.width_mm / along), round(part.height_mm / pitch)
    gap, foot = round(_GAP_MM / along), round(_FOOT_MM / pitch)
    out = np.zeros((rows + foot, len(specs) * (cols + gap) - gap), np.uint8)
    middles = []
    for i, spec in enumerate(specs):
        size = spec.size
        left = round(size.cols / 2 + part.x_mm / along - cols / 2)
        top = round(size.rows / 2 - part.y_mm / pitch - rows / 2)
        start = i * (cols + gap)
        out[:rows, start : start + cols] = (
            pipeline().dots(spec).window(left, top, cols, rows)
        )
        middles.append((start + cols / 2, rows + foot / 2))
    return out, middles


def _png(dots: NDArray[np.uint8], spec: JobSpec) -> bytes:
    white = (dots == 0) == spec.burns_dark
    stream = io.BytesIO()
    Image.fromarray(white).save(stream, "PNG", dpi=png_density(spec.size.cell_mm))
    return stream.getvalue()


def _letters(
    takes: list[Take], middles: list[tuple[float, float]], spec: JobSpec
) -> list[tuple[str, float, float]]:
    along, pitch = spec.size.cell_mm
    return [
        (take.letter, column * along, row * pitch)
        for take, (column, row) in zip(takes, middles, strict=True)
    ]


def _spec(
    first: JobSpec,
    opened: JobSpec,
    shape: tuple[int, ...],
    letters: list[tuple[str, float, float]],
) -> JobSpec:
    """Return the strip's job: the first take's, but for picture, size and blank."""
    along, pitch = first.size.cell_mm
    width, height = shape[1] * along, shape[0] * pitch
    lines = tuple(
        TextLine(
            text=letter,
            cap_mm=_CAP_MM,
            x_mm=x - width / 2,
            y_mm=height / 2 - y - _CAP_MM / 2,
            look="dark" if first.burns_dark else "light",
        )
        for letter, x, y in letters
    )
    art = opened.artwork
    spec = JobSpec(
        name=opened.name,
        artwork=ArtworkPart(
            file=art.file,
            sha256=art.sha256,
            width_px=art.width_px,
            height_px=art.height_px,
            keep_dots=True,
        ),
        blank=BlankPart(
            name="Scrap",
            width_mm=width + 2 * _MARGIN_MM,
            height_mm=height + 2 * _MARGIN_MM,
        ),
        substrate=first.substrate,
        side=first.side,
        size=SizePart(
            width_mm=width,
            height_mm=height,
            pitch_mm=first.size.pitch_mm,
            dot_pitch_mm=first.size.dot_pitch_mm,
        ),
        mask=MaskPart(),
        retouch=RetouchPart(),
        border=BorderPart(),
        lettering=LetteringPart(lines=lines),
        dots=first.dots,
        machine=first.machine,
        burn=first.burn,
    )
    return centre_on_bed(spec)
