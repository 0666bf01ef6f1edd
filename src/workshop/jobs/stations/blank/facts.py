"""What the blank station shows beside its fields."""

from dataclasses import dataclass

from engraving.check import MOST_STRETCHED, stretch
from engraving.jobspec import JobSpec
from engraving.place import shown_piece
from engraving.recipe import full_rows_seconds
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.stations.artwork.facts import own_size_mm
from workshop.jobs.stations.blank.lately import NearBlank, near_blanks
from workshop.shell.services import show_lengths, show_short


@dataclass(frozen=True)
class BlankFacts:
    """What follows from blank, size and side; mm, s and %."""

    cols: int
    rows: int
    per_dot: float
    too_small: bool
    dots_million: float
    off_blank: float
    stretched: float
    overlap: float
    overlap_along: float
    spot: float
    even: list[tuple[float, str]]
    times: tuple[float, float]
    sentences: list[tuple[str, bool]]
    colours: list[dict[str, str]]
    own_size: tuple[float, float] | None
    nudged: tuple[float, float]
    near: list[NearBlank]
    burned_as: str


def blank_facts(spec: JobSpec, job: Job) -> BlankFacts:
    """Return what the Blank station shows beside its fields."""
    size, machine = spec.size, spec.machine
    per_dot = spec.source_per_dot
    off = pipeline().off_blank(spec)
    stretched = stretch(shown_piece(spec))
    return BlankFacts(
        cols=size.cols,
        rows=size.rows,
        per_dot=per_dot,
        too_small=per_dot < 1 - 1e-3 and not spec.keeps_dots,
        dots_million=size.cols * size.rows / 1e6,
        off_blank=off if off > 5e-4 else 0,
        stretched=100 * stretched if abs(stretched) > MOST_STRETCHED else 0,
        overlap=100 * (1 - size.pitch_mm / machine.spot_mm),
        overlap_along=100 * (1 - size.along_mm / machine.spot_mm),
        spot=machine.spot_mm,
        even=_even_pitches(spec),
        times=_times(spec),
        sentences=side_sentences(spec),
        colours=job.blank.colours if job.blank else [],
        own_size=None if spec.keeps_dots else own_size_mm(spec, job),
        nudged=(size.offset_x_mm, size.offset_y_mm),
        near=near_blanks(job),
        burned_as=_burned_as(job),
    )


def _burned_as(job: Job) -> str:
    """Say that a blank is of another substrate than it is burned as."""
    blank, substrate = job.blank, job.substrate
    if blank is None or blank.substrate is None or blank.substrate == substrate:
        return ""
    burned = substrate.name if substrate else "plain pale wood"
    return f"{blank.name} is {blank.substrate.name} on the shelf, but burned as {burned}."


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
    words = show_lengths(spec.size.width_mm, spec.size.height_mm, 1)
    return words + (", mirrored" if spec.mirrored else "")
