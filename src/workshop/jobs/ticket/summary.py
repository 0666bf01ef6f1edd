"""The ticket's lines: each station's state and result."""

from dataclasses import dataclass

from engraving.check import Finding, Severity
from engraving.dots import METHODS
from engraving.jobspec import JobSpec, TonePart
from engraving.place import (
    anchor_of,
)
from workshop.jobs.models import STATIONS, Job
from workshop.jobs.stations.artwork.facts import artwork_result
from workshop.jobs.stations.blank.facts import blank_result
from workshop.jobs.stations.card.facts import card_result
from workshop.shell.services import show_at, show_number

_NAMES = {station: station.capitalize() for station in STATIONS}


@dataclass(frozen=True)
class StationLine:
    """A station's line on the ticket."""

    slug: str
    number: int
    name: str
    state: str
    result: str
    open: bool


def station_lines(job: Job, spec: JobSpec, findings: list[Finding]) -> list[StationLine]:
    """Return the ticket's eight lines; `findings` are the quick ones."""
    worst: dict[str, Finding] = {}
    for finding in findings:
        if finding.severity is not Severity.NOTE:
            worst.setdefault(finding.station, finding)
    results = _results(job, spec)
    return [
        StationLine(
            slug,
            i + 1,
            _NAMES[slug],
            _state(job, slug, worst),
            _SHORT.get(worst[slug].rule, results[slug]) if slug in worst else results[slug],
            slug == job.station,
        )
        for i, slug in enumerate(STATIONS)
    ]


def _state(job: Job, slug: str, worst: dict[str, Finding]) -> str:
    if slug in worst:
        return "warn"
    if slug == "check":
        return "done" if job.state and job.checked_state == job.state else "open"
    if slug == "run":
        return "done" if job.burned_at else "open"
    return "done" if slug in job.visited else "open"


_SHORT = {
    "on_the_bed": "Off the bed",
    "run_up_on_the_bed": "No room for the run-up",
    "inside_the_blank": "Larger than the blank",
    "pitch_against_spot": "Rows finer than the spot",
    "source_is_large_enough": "Source too small",
    "keeps_its_ratio": "Stretched",
    "dots_are_kept": "Made of dots already",
    "dots_are_sharp": "Smeared dots",
    "mirrored_as_it_is_seen": "Wrong way round",
    "inverted_as_it_burns": "Turned to a negative by hand",
    "edges_are_covered": "Edges not covered",
    "speed_in_its_unit": "Speed in another unit?",
    "size_in_its_unit": "Size in another unit?",
    "beam_keeps_up": "Faster than the beam",
    "recipe_was_tried": "Recipe not tried yet",
    "beam_is_the_recipes": "Lens or beam changed",
    "power_was_tried": "Power not tried",
    "underlay_leaves_no_stain": "What lies under it stains",
    "shelf_and_machine_agree": "The machine says otherwise",
    "turns_were_measured": "Steps not measured",
    "speed_in_range": "Faster than the machine",
    "power_in_range": "Too little power",
    "mostly_burned": "Mostly burned",
    "hardly_burned": "Hardly anything burns",
    "lightest_tone_marks": "Lightest tones stay bare",
    "dose_as_the_recipe": "Not the recipe's dose",
    "safe_under_a_beam": "Not safe under a beam",
    "mercury_in_old_mirrors": "Old mirrors: check for mercury",
    "worked_from_its_side": "Worked from the other side",
    "settings_are_tested": "No recipe: not tested",
    "something_is_included": "Nothing is included",
    "round_pieces_turn": "A round piece lies flat",
    "pockets_hold_something": "Pockets without a picture",
    "marks_with_a_beam": "Marks without a beam",
}


def _results(job: Job, spec: JobSpec) -> dict[str, str]:
    size, burn, place = spec.size, spec.burn, spec.place
    x, y = anchor_of(size, place, place.anchor)
    return {
        "artwork": card_result(spec) if spec.card else artwork_result(spec),
        "blank": blank_result(spec),
        "tone": "Passed over, a card" if spec.card else _tone_result(spec),
        "dots": _dots_result(spec),
        "burn": f"{show_number(burn.power, 1)} %, {show_number(burn.speed_mm_s, 1)} mm/s, "
        f"{burn.passes} pass{'es' if burn.passes > 1 else ''}",
        "place": f"{place.anchor.replace('-', ' ')} at {show_at(x, y)}",
        "check": _check_result(job),
        "run": "Burned" if job.burned_at else "Not burned yet",
    }


def _check_result(job: Job) -> str:
    """Say whether this very state was checked."""
    if not job.checked_state:
        return "Not checked yet"
    return "Checked" if job.checked_state == job.state else "Changed since the check"


def _dots_result(spec: JobSpec) -> str:
    method = METHODS.get(spec.dots.method)
    label = method.label if method else spec.dots.method
    made = "Its own dots" if spec.keeps_dots else label
    return f"{made}, {show_number(spec.size.dpi, 1)} dpi"


def _tone_result(spec: JobSpec) -> str:
    tone = spec.tone
    if spec.keeps_dots:
        return "Passed over, dots kept"
    if not tone.on:
        return "Off"
    return ", ".join(_tone_words(tone.effective())) or "As it is"


def _tone_words(tone: TonePart) -> list[str]:
    """Return in a few words each all that changes the tones, the plainest first."""
    levels = (tone.input_black, tone.input_white, tone.output_black, tone.output_white)
    shades = abs(tone.shade)
    told = [
        (tone.shade, f"{shades} shade{'s' if shades > 1 else ''} "
         f"{'lighter' if tone.shade > 0 else 'darker'}"),
        (tone.gamma != 1, f"γ {show_number(tone.gamma, 2)}"),
        (tone.brightness, f"brightness {tone.brightness:+.0f}"),
        (tone.contrast, f"contrast {tone.contrast:+.0f}"),
        (levels != (0, 255, 0, 255), "levels"),
        (tone.curve, "curve"),
        (tone.exposure or tone.offset, "exposure"),
        (tone.shadows or tone.highlights, "shadows, highlights"),
        (tone.local_amount, "local contrast"),
        (tone.denoise, "denoised"),
        (tone.blur_dots, "blurred"),
        (tone.sharpen_amount, "sharpened"),
        (tone.detail_opacity, "high-pass"),
    ]  # fmt: skip
    return [words for said, words in told if said]
