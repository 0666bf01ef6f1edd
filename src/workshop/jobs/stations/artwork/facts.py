"""What the artwork station shows beside its fields."""

from dataclasses import dataclass
from typing import Any

from engraving.artwork.mix import MIXES
from engraving.check import kept_dots
from engraving.jobspec import LARGEST_MM, JobSpec
from engraving.lettering import thinnest_stroke_mm
from engraving.pipeline import stage_key
from engraving.units import pitch_to_dpi, size_at_dpi
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline, stage_cache
from workshop.jobs.pictures.intake import file_cell_mm, sheets_of
from workshop.jobs.pictures.windows import mix_key
from workshop.jobs.stations.artwork.changes import mix_name
from workshop.shell.services import show_length, show_lengths, show_number


@dataclass(frozen=True)
class PictureSheet:
    """A page to choose from."""

    value: str
    artwork_id: int
    page: int
    label: str
    chosen: bool


@dataclass(frozen=True)
class LetterFacts:
    """The thinnest stroke of a line of lettering in mm, and letters its font lacks."""

    stroke: float
    thin: bool
    lacks: str
    spot: float


@dataclass(frozen=True)
class ArtworkFacts:
    """What follows from the picture and what was done to it."""

    edits: int
    strokes: int
    sheets: list[PictureSheet]
    own_size: tuple[float, float] | None
    transparent: bool
    transparent_words: str
    mixes: list[tuple[str, str]]
    mix: str
    mix_key: str
    dropped: list[str]
    cut_out: bool
    letter_facts: list[LetterFacts]
    dark: str
    light: str
    own_dots: str
    squared: bool
    shaped: str
    depth_odds: float
    depth: bool
    taken_words: str


def artwork_facts(spec: JobSpec, job: Job) -> ArtworkFacts:
    """Return what the Artwork station shows beside its fields."""
    part, mask = spec.artwork, spec.mask
    return ArtworkFacts(
        sheets=_sheets(spec, job),
        own_size=own_size_mm(spec, job),
        transparent=job.artwork.transparent,
        transparent_words=_ground_words(spec),
        mixes=[(name, name.capitalize()) for name in MIXES],
        mix=mix_name(part),
        mix_key=mix_key(spec),
        dropped=[one.colour for one in part.dropped],
        cut_out=any(edit.kind == "cutout" for edit in mask.edits),
        edits=len(mask.edits),
        strokes=len(spec.retouch.strokes),
        letter_facts=[_letter_facts(spec, line) for line in spec.lettering.lines],
        dark="burned" if spec.burns_dark else "left bare",
        light="left bare" if spec.burns_dark else "burned",
        own_dots=_own_dots(spec, job),
        squared=part.corners is not None,
        shaped=_shaped(spec),
        depth_odds=pipeline().likely_depth(spec),
        depth=part.holds == "depth",
        taken_words=_taken_words(spec),
    )


def _taken_words(spec: JobSpec) -> str:
    """Say what the picture is taken for."""
    if spec.artwork.holds == "depth":
        return "It is taken for depth: white is near, black is far."
    return "It is taken for tones: its light and dark are what is marked."


def own_size_mm(spec: JobSpec, job: Job) -> tuple[float, float] | None:
    """Return width and height of the cropped picture at its embedded resolution.

    None when the file has none, or its pixels were tilted or squared since.
    """
    art, part = job.artwork, spec.artwork
    if not art.dpi_x or not art.dpi_y or not part.is_upright:
        return None
    _, _, across, down = part.window_px
    by = (art.dpi_x, art.dpi_y) if part.turns % 2 == 0 else (art.dpi_y, art.dpi_x)
    size = size_at_dpi(across, by[0]), size_at_dpi(down, by[1])
    return size if max(size) <= LARGEST_MM else None


@dataclass(frozen=True)
class HandSteps:
    """How many steps of handwork there are."""

    edits: int
    strokes: int


def hand_steps(spec: JobSpec) -> HandSteps:
    """Return how many steps of handwork there are."""
    return HandSteps(len(spec.mask.edits), len(spec.retouch.strokes))


def _sheets(spec: JobSpec, job: Job) -> list[PictureSheet]:
    found = []
    for artwork, page in sheets_of(job):
        label = artwork.name if artwork.pages == 1 else f"{artwork.name}, page {page + 1}"
        chosen = (artwork.pk, page) == (job.artwork_id, spec.artwork.page)
        found.append(PictureSheet(f"{artwork.pk}-{page}", artwork.pk, page, label, chosen))
    return found


def _ground_words(spec: JobSpec) -> str:
    """Say what the transparent ground comes to on this substrate."""
    if spec.artwork.ground == "unburned":
        return f"Nothing is burned there; the {spec.substrate.name.lower()} stays bare."
    dark = {"black": True, "white": False}.get(spec.artwork.ground)
    if dark is None:
        return f"Burned as a gray of {spec.artwork.ground_gray:.0f}."
    if dark == spec.burns_dark:
        return f"Burned solid: on {spec.substrate.name.lower()} that is the whole ground."
    return f"Left bare: on {spec.substrate.name.lower()} that is not burned."


def _letter_facts(spec: JobSpec, line: Any) -> LetterFacts:
    key = stage_key("stroke", line.text, line.font)
    face = pipeline().face(line.font)
    unit = line.model_copy(update={"cap_mm": 10.0, "spacing_mm": 0.0})
    share = stage_cache().get(key, lambda: thinnest_stroke_mm(face, unit)) / 10
    stroke = share * line.cap_mm
    return LetterFacts(
        stroke=stroke,
        thin=stroke < spec.machine.spot_mm,
        lacks=face.lacks(line.text),
        spot=spec.machine.spot_mm,
    )


def _shaped(spec: JobSpec) -> str:
    """Say in a few words how the picture was straightened and cut."""
    part = spec.artwork
    words = [f"{show_number(part.straighten_deg, 1)}°"] if part.straighten_deg else []
    if part.corners is not None:
        words.append("squared")
    if part.crop.width < 1 or part.crop.height < 1:
        words.append("cropped")
    return ", ".join(words)


def _own_dots(spec: JobSpec, job: Job) -> str:
    """Return the size that keeping the dots gives, in words."""
    size = kept_dots(spec, file_cell_mm(spec, job))["size"]
    dpi = show_number(pitch_to_dpi(size["pitch_mm"]), 1)
    return f"{show_lengths(size['width_mm'], size['height_mm'], 1)} at {dpi} dpi"


def artwork_result(spec: JobSpec) -> str:
    """Return the Artwork station's line on the ticket."""
    _, _, across, down = spec.artwork.window_px
    parts = [f"{across} × {down} px"]
    if spec.keeps_dots:
        parts.append("its own dots")
    if spec.mask.on and (spec.mask.edits or spec.mask.frame != "none"):
        parts.append("cut out" if spec.mask.edits else "framed")
    if spec.retouch.on and spec.retouch.strokes:
        parts.append("retouched")
    if spec.lettering.lines:
        count = len(spec.lettering.lines)
        parts.append(f"{count} line{'s' if count > 1 else ''} of text")
    if spec.border.on:
        parts.append(f"border {show_length(spec.border.width_mm, 1)}")
    return ", ".join(parts)
