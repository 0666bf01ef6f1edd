"""The ticket's lines: each station's state and result."""

from dataclasses import dataclass

from engraving.check import Finding, Severity
from engraving.dots import METHODS
from engraving.dots.screens import cell_width_mm
from engraving.jobspec import JobSpec, TonePart
from engraving.pipeline.stages.ways.registry import words_of
from engraving.place import (
    anchor_of,
)
from workshop.jobs.models import STATIONS, Job
from workshop.jobs.stations.artwork.facts import artwork_result
from workshop.jobs.stations.blank.facts import blank_result
from workshop.jobs.stations.card.facts import card_result
from workshop.jobs.stations.outlines.facts import outlines_result
from workshop.shell.services import show_at, show_length, show_number

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
    """Return the ticket's lines; `findings` are the quick ones."""
    worst: dict[str, Finding] = {}
    for finding in findings:
        if finding.severity is not Severity.NOTE:
            worst.setdefault(finding.station, finding)
    results = _results(job, spec)
    return [
        StationLine(
            slug,
            i + 1,
            _name(spec, slug),
            _state(job, slug, worst),
            _SHORT.get(worst[slug].rule, results[slug]) if slug in worst else results[slug],
            slug == job.station,
        )
        for i, slug in enumerate(STATIONS)
    ]


def _name(spec: JobSpec, slug: str) -> str:
    """Return what a station is called for the way the picture is marked."""
    words = words_of(spec)
    return {"dots": words.station, "burn": words.burn}.get(slug, _NAMES[slug])


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
    "machine_can_mark_so": "Not with this machine",
    "letters_are_carved_by_a_tool": "Not with this machine",
    "depth_is_depth": "Depth or tones?",
    "relief_leaves_a_floor": "Too deep for the blank",
    "relief_stays_in_focus": "Out of focus down there",
    "relief_stays_cool": "Many passes, no cleaning",
    "board_is_left": "Through the board",
    "tool_fits_the_detail": "Too fine for the tool",
    "tool_goes_into_the_letters": "Too narrow for the tool",
    "bed_is_even": "Uneven bed",
    "enough_is_light": "Too little light in it",
    "rows_lie_a_mark_apart": "Rows not a mark apart",
}


def _results(job: Job, spec: JobSpec) -> dict[str, str]:
    size, place = spec.size, spec.place
    x, y = anchor_of(size, place, place.anchor)
    return {
        "artwork": card_result(spec) if spec.card else artwork_result(spec),
        "blank": blank_result(spec),
        "tone": "Passed over, a card" if spec.card else _tone_result(spec),
        "dots": _dots_result(spec),
        "burn": _burn_result(spec),
        "outlines": outlines_result(spec),
        "place": f"{place.anchor.replace('-', ' ')} at {show_at(x, y)}",
        "check": _check_result(job),
        "run": "Burned" if job.burned_at else "Not burned yet",
    }


def _check_result(job: Job) -> str:
    """Say whether this very state was checked."""
    if not job.checked_state:
        return "Not checked yet"
    return "Checked" if job.checked_state == job.state else "Changed since the check"


def _burn_result(spec: JobSpec) -> str:
    burn, speed = spec.burn, f"{show_number(spec.burn.speed_mm_s, 1)} mm/s"
    passes = f"{burn.passes} pass{'es' if burn.passes > 1 else ''}"
    if spec.machine.kind == "vtool":
        return f"{speed}, {spec.marking.carving.tool.spindle_rpm} 1/min"
    if spec.machine.touches:
        return f"{speed}, {passes}"
    if spec.marking.way == "relief":
        return f"{show_number(burn.power, 1)} %, {speed}"
    return f"{show_number(burn.power, 1)} %, {speed}, {passes}"


def _relief_result(spec: JobSpec) -> str:
    relief = spec.marking.relief
    deep, step = show_length(relief.depth_mm, 2), show_length(relief.per_pass_mm, 2)
    return f"{deep} deep, {step} a pass"


def _dots_result(spec: JobSpec) -> str:
    if spec.marking.way == "relief" and spec.card is None:
        return _relief_result(spec)
    method = METHODS.get(spec.dots.method)
    label = method.label if method else spec.dots.method
    made = "Its own dots" if spec.keeps_dots else label
    if spec.marking.way == "carved":
        deep = show_length(spec.marking.carving.deepest_mm, 2)
        return f"{label}, {show_length(cell_width_mm(spec.dots), 1)} apart, to {deep} deep"
    return f"{made}, {show_number(spec.size.dpi, 1)} dpi"


def _tone_result(spec: JobSpec) -> str:
    own = own_tones(spec)
    if own:
        return f"Own in {own} pocket{'s' if own > 1 else ''}"
    tone = spec.tone
    if spec.keeps_dots:
        return "Passed over, dots kept"
    if not tone.on:
        return "Off"
    return ", ".join(_tone_words(tone.effective())) or "As it is"


def own_tones(spec: JobSpec) -> int:
    """Return how many pockets have a tone of their own."""
    fixture = spec.fixture
    if fixture is None or fixture.picture != "own":
        return 0
    return sum(fixture.pocket(i).tone is not None for i in range(fixture.count))


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
