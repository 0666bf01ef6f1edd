"""What the Artwork and Blank stations say beside their fields."""

from dataclasses import dataclass
from typing import Any

from engraving.artwork.mix import MIXES
from engraving.check import MOST_STRETCHED, kept_dots, stretch
from engraving.lettering import thinnest_stroke_mm
from engraving.pipeline import stage_key
from engraving.place import shown_piece
from engraving.recipe import full_rows_seconds
from engraving.spec import LARGEST_MM, JobSpec
from engraving.units import pitch_to_dpi, size_at_dpi
from workshop.jobs.models import Job
from workshop.jobs.services.engine import pipeline, stage_cache
from workshop.jobs.services.intake import file_cell_mm, sheets_of
from workshop.jobs.services.pictures import mix_key
from workshop.jobs.services.stations.artwork import mix_name
from workshop.shell.services import show_length, show_lengths, show_number, show_short


@dataclass(frozen=True)
class Sheet:
    """A page to choose from."""

    value: str
    artwork_id: int
    page: int
    label: str
    chosen: bool


def artwork_facts(spec: JobSpec, job: Job) -> dict[str, Any]:
    """Return what the Artwork station shows beside its fields."""
    part, mask = spec.artwork, spec.mask
    return {
        "sheets": _sheets(spec, job),
        "own_size": own_size_mm(spec, job),
        "transparent": job.artwork.transparent,
        "transparent_words": _ground_words(spec),
        "mixes": [(name, name.capitalize()) for name in MIXES],
        "mix": mix_name(part),
        "mix_key": mix_key(spec),
        "dropped": [one.colour for one in part.dropped],
        "cut_out": any(edit.kind == "cutout" for edit in mask.edits),
        **counts(spec),
        "letter_facts": [_letter_facts(spec, line) for line in spec.lettering.lines],
        "dark": "burned" if spec.burns_dark else "left bare",
        "light": "left bare" if spec.burns_dark else "burned",
        "own_dots": _own_dots(spec, job),
        "squared": part.corners is not None,
        "shaped": _shaped(spec),
    }


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


def counts(spec: JobSpec) -> dict[str, int]:
    """Return how many steps of handwork there are."""
    return {"edits": len(spec.mask.edits), "strokes": len(spec.retouch.strokes)}


def _sheets(spec: JobSpec, job: Job) -> list[Sheet]:
    found = []
    for artwork, page in sheets_of(job):
        label = artwork.name if artwork.pages == 1 else f"{artwork.name}, page {page + 1}"
        chosen = (artwork.pk, page) == (job.artwork_id, spec.artwork.page)
        found.append(Sheet(f"{artwork.pk}-{page}", artwork.pk, page, label, chosen))
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


def _letter_facts(spec: JobSpec, line: Any) -> dict[str, Any]:
    key = stage_key("stroke", line.text, line.font)
    face = pipeline().face(line.font)
    unit = line.model_copy(update={"cap_mm": 10.0, "spacing_mm": 0.0})
    share = stage_cache().get(key, lambda: thinnest_stroke_mm(face, unit)) / 10
    stroke = share * line.cap_mm
    return {
        "stroke": stroke,
        "thin": stroke < spec.machine.spot_mm,
        "lacks": face.lacks(line.text),
        "spot": spec.machine.spot_mm,
    }


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


def blank_facts(spec: JobSpec, job: Job) -> dict[str, Any]:
    """Return what the Blank station shows beside its fields."""
    size, machine = spec.size, spec.machine
    per_dot = spec.source_per_dot
    off = pipeline().off_blank(spec)
    stretched = stretch(shown_piece(spec))
    return {
        "cols": size.cols,
        "rows": size.rows,
        "per_dot": per_dot,
        "too_small": per_dot < 1 - 1e-3 and not spec.keeps_dots,
        "dots_million": size.cols * size.rows / 1e6,
        "off_blank": off if off > 5e-4 else 0,
        "stretched": 100 * stretched if abs(stretched) > MOST_STRETCHED else 0,
        "overlap": 100 * (1 - size.pitch_mm / machine.spot_mm),
        "overlap_along": 100 * (1 - size.along_mm / machine.spot_mm),
        "spot": machine.spot_mm,
        "even": _even_pitches(spec),
        "times": _times(spec),
        "sentences": side_sentences(spec),
        "colours": job.blank.colours if job.blank else [],
        "own_size": None if spec.keeps_dots else own_size_mm(spec, job),
        "nudged": (size.offset_x_mm, size.offset_y_mm),
    }


def _even_pitches(spec: JobSpec) -> list[tuple[float, str]]:
    """Return row pitches near the present one that are whole motor steps."""
    step, pitch = spec.machine.step_mm, spec.size.pitch_mm
    if not step:
        return []
    steps = round(pitch / step)
    near = [n * step for n in (steps - 1, steps, steps + 1) if n >= 1]
    if any(abs(value - pitch) < 1e-9 for value in near):
        return []
    return [(value, show_short(value, 4)) for value in near if 0.005 <= value <= 5]


def _times(spec: JobSpec) -> tuple[float, float]:
    """Return about how long all rows take in seconds, now and at twice the resolution."""
    burn, pitch = spec.burn, spec.size.pitch_mm
    now = full_rows_seconds(spec, burn.speed_mm_s, pitch, burn.passes)
    return now, full_rows_seconds(spec, burn.speed_mm_s, pitch / 2, burn.passes)


def side_sentences(spec: JobSpec) -> list[tuple[str, bool]]:
    """Return plain sentences on mirroring, inverting and polarity; True where overruled."""
    side, beam = spec.side, spec.polarity.value
    burned = "dark" if spec.burns_dark else "light"
    why_mirrored = (
        "a printing plate prints the other way round"
        if side.printing_plate
        else "it is worked from behind and looked at from its face"
    )
    if side.mirror != "auto":
        mirrored = "Mirrored by hand." if spec.mirrored else "Not mirrored, as set by hand."
    elif spec.mirrored:
        mirrored = f"Mirrored, for {why_mirrored}."
    else:
        mirrored = "Not mirrored."
    inverted = "Inverted, so that black prints." if spec.inverted else ""
    if side.invert != "auto":
        inverted = "Inverted by hand." if spec.inverted else "Not inverted, as set by hand."
    sentences = []
    if side.seen_from != spec.substrate.worked_from:
        usual = "behind" if spec.substrate.worked_from == "back" else "the face"
        sentences.append((f"{spec.substrate.name} is worked from {usual}.", True))
    sentences += [
        (f"The beam {beam} it: {burned} tones are burned.", side.polarity != "auto"),
        (mirrored, side.mirror != "auto"),
    ]
    if inverted:
        sentences.append((inverted, side.invert != "auto"))
    return sentences


def blank_result(spec: JobSpec) -> str:
    """Return the Blank station's line on the ticket."""
    words = f"{spec.blank.name}, {show_lengths(spec.size.width_mm, spec.size.height_mm, 1)}"
    return words + (", mirrored" if spec.mirrored else "")


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
