"""What the ticket says of a job: results, readings, findings, histograms."""

import json
from dataclasses import dataclass
from typing import Any

from engraving.artwork.geometry import grid_to_shares
from engraving.check import Facts, Finding, Fine, Severity, check_job, even_dose
from engraving.dots import METHODS
from engraving.lettering import line_box_mm
from engraving.pipeline import stage_key
from engraving.place import (
    anchor_of,
    shown_piece,
)
from engraving.proof import shown_colours
from engraving.recipe import (
    Pulses,
    exposure,
    job_dose_j_mm2,
    line_energy_j_mm,
    pulses,
    quickest_mm_s,
    row_acceleration,
    row_top_speed,
    run_up_mm,
    variants,
    watts,
)
from engraving.spec import JobSpec, TextLine, TonePart
from workshop.jobs.models import STATIONS, Job
from workshop.jobs.services.cards import card_result
from workshop.jobs.services.engine import pipeline, stage_cache
from workshop.jobs.services.intake import file_cell_mm
from workshop.jobs.services.picture_facts import artwork_result, blank_result
from workshop.shelf.services import recipe_part, start_recipe
from workshop.shell.services import length_unit, show_at, show_number

_NEAR = 0.01
"""A dose that is off by less is the same."""
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


def quick_facts(job: Job, spec: JobSpec) -> Facts:
    """Return what is known of a job without computing anything."""
    art = job.artwork
    return Facts(
        spec,
        dotted=art.dotted,
        smeared=art.smeared,
        file_cell_mm=file_cell_mm(spec, job),
    )


def quick_findings(job: Job, spec: JobSpec) -> list[Finding]:
    """Return what can be found without making dots."""
    return check_job(quick_facts(job, spec))[0]


def weights(findings: list[Finding]) -> tuple[int, int]:
    """Return how many of some findings are stops, and how many cautions."""
    found = [finding.severity for finding in findings]
    return found.count(Severity.STOP), found.count(Severity.CAUTION)


def first_fix(findings: list[Finding]) -> dict[str, str] | None:
    """Return the rule and label of the fix that answers the worst stop, if any."""
    for finding in findings:
        if finding.severity is Severity.STOP and finding.fix:
            return {"rule": finding.rule, "label": finding.fix.label}
    return None


def full_check(spec: JobSpec) -> tuple[list[Finding], list[Fine]]:
    """Return findings, worst first, and what is fine."""
    return pipeline().check(spec)


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
    "sides_as_they_follow": "Side set by hand",
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


def dose(spec: JobSpec) -> float:
    """Return the areal dose of solid areas in J/mm²."""
    return job_dose_j_mm2(spec)


def quick_readings(spec: JobSpec) -> dict[str, Any]:
    """Return readings that need no dots."""
    return {"size": spec.size, "dose": dose(spec), "total_rows": spec.size.rows}


def full_readings(spec: JobSpec) -> dict[str, Any]:
    """Return readings from the real dots and their tool path."""
    estimate = pipeline().estimate(spec)
    return {
        **quick_readings(spec),
        "burned": pipeline().dots(shown_piece(spec)).share,
        "estimate": estimate,
        "total_rows": estimate.rows,
    }


def burn_facts(spec: JobSpec, job: Job) -> dict[str, Any]:
    """Return what the Burn station shows beside its fields."""
    burn, machine = spec.burn, spec.machine
    power_w = watts(burn.power, machine.rated_power_w)
    return {
        "run_up": run_up_mm(burn.speed_mm_s, row_acceleration(spec)),
        "dose": dose(spec),
        "line_energy": line_energy_j_mm(power_w, burn.speed_mm_s),
        "watts": power_w,
        "mm_min": burn.speed_mm_s * 60,
        "quickest": quickest_mm_s(spec),
        "machine": machine,
        "most": row_top_speed(spec),
        "spot": machine.spot_mm,
        "recipe_changed": _differs(spec, job),
        "start": _start(spec, job),
        "exposure": exposure(spec),
        "even": _even(spec),
        "variants": [] if spec.card else variants(spec),
        "version": spec.burn.recipe_version,
        "newest": job.recipe.version if job.recipe else 0,
        "pulses": _pulses(spec, power_w),
    }


def _start(spec: JobSpec, job: Job) -> dict[str, Any] | None:
    """Return settings to begin with where no recipe is known, and where they are from."""
    if spec.card or job.recipe or not (job.machine and job.substrate):
        return None
    found = start_recipe(job.substrate, job.machine)
    if found is None:
        return None
    part, sources = found
    taken = spec.burn.begun_with == sources[0][:200]
    return {"part": part, "source": sources[0], "taken": taken}


def _pulses(spec: JobSpec, power_w: float) -> Pulses | None:
    burn, spot = spec.burn, spec.machine.spot_mm
    if not burn.pulse_khz:
        return None
    return pulses(burn.pulse_khz, burn.speed_mm_s, spot, power_w)


def _even(spec: JobSpec) -> dict[str, str] | None:
    """Return the one change that gives the recipe's dose; None where there is none."""
    fix = even_dose(spec) if abs(exposure(spec) - 1) > _NEAR else None
    if fix is None:
        return None
    [(name, value)] = fix.changes["burn"].items()
    field = {"speed_mm_s": "speed"}.get(name, name)
    label = fix.label.removeprefix("Set ")
    return {"set": f"{field}={value:.1f}", "says": f"Same dose at {label}"}


_OF_RECIPE = (
    "speed_mm_s", "power", "passes", "both_ways", "rows", "cross", "air", "focus_mm",
    "pulse_khz", "pulse_ns",
)  # fmt: skip


def _differs(spec: JobSpec, job: Job) -> bool:
    """Whether the job burns otherwise than its recipe says now."""
    if job.recipe is None:
        return False
    part, burn = recipe_part(job.recipe), spec.burn
    if any(getattr(part, name) != getattr(burn, name) for name in _OF_RECIPE):
        return True
    return abs(part.pitch_mm - spec.size.pitch_mm) > 1e-9


def stage_facts(spec: JobSpec) -> dict[str, Any]:
    """Return what the table's script needs to draw the piece to scale."""
    size, blank, part = spec.size, spec.blank, spec.artwork
    to_file = grid_to_shares(part, size.cols, size.rows)
    return {
        "cols": size.cols,
        "rows": size.rows,
        "along": size.along_mm,
        "pitch": size.pitch_mm,
        "blank-shape": blank.shape,
        "blank-width": blank.width_mm,
        "blank-height": blank.height_mm,
        "blank-corner": blank.corner_mm,
        "blank-outline": json.dumps(blank.outline) if blank.outline else "",
        "offset-x": size.offset_x_mm,
        "offset-y": size.offset_y_mm,
        "ground": shown_colours(spec.substrate)[0],
        "textured": "" if spec.substrate.texture == "none" else "1",
        "spot": spec.machine.spot_mm,
        "to-file": " ".join(f"{value:.12g}" for value in to_file.ravel()),
        "file-width": part.width_px,
        "file-height": part.height_px,
        "words": _seen_words(spec),
        "corners": json.dumps(part.corners) if part.corners else "",
        "lines": json.dumps(_line_boxes(spec)),
        "unit": length_unit(),
    }


def _line_boxes(spec: JobSpec) -> list[dict[str, Any]]:
    """Return where each line of lettering stands, mm from the picture's middle.

    ``box`` is left, low, right and high of its letters, y away from the
    operator.
    """
    return [
        {
            "text": line.text,
            "x": line.x_mm,
            "y": line.y_mm,
            "box": _box(line),
        }
        for line in spec.lettering.lines
    ]


def _box(line: TextLine) -> tuple[float, float, float, float]:
    """Return the box of a line's letters; kept, for every answer asks for it."""
    key = stage_key("line box", line.model_dump())
    return stage_cache().get(key, lambda: line_box_mm(pipeline().face(line.font), line))


def _seen_words(spec: JobSpec) -> str:
    """Say what the table shows where that is not what the machine burns."""
    if not spec.mirrored:
        return ""
    if spec.side.printing_plate:
        return "Shown as it will print; burned mirrored"
    return "Shown from the face; burned mirrored"
