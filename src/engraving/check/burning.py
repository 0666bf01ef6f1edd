"""Rules on how much is burned, how strongly, and whether the beam can."""

import math

from engraving.check.findings import Facts, Finding, Fine, Fix, Severity
from engraving.recipe import exposure, least_run_mm
from engraving.spec import Polarity

MOST_BURNED = 0.62
_NEAR = 0.1


def mostly_burned(facts: Facts) -> Finding | Fine | None:
    """A substrate that is burned dark is not mostly burned.

    Heat and smoke build up over large dark areas (common practice, no source).
    """
    spec = facts.spec
    if facts.burned_dots is None or spec.polarity is not Polarity.DARKENS or spec.card:
        return None
    share = facts.burned_dots / (spec.size.cols * spec.size.rows)
    if share <= MOST_BURNED:
        return Fine("mostly_burned", "Dark areas", f"{100 * share:.1f} %")
    shade = min(spec.tone.shade + 2, 12)
    return Finding(
        "mostly_burned",
        Severity.CAUTION,
        "tone",
        "Most of the picture is burned: heat and smoke build up, and fine tones drown.",
        f"{100 * share:.1f} % of the dots",
        Fix("Two shades lighter", {"tone": {"shade": shade}}),
    )


def settings_are_tested(facts: Facts) -> Finding | Fine | None:
    """Speed and power come from a recipe for this substrate on this machine."""
    spec = facts.spec
    burn = spec.burn
    if spec.card or not spec.raster:
        return None
    if burn.recipe:
        version = f", version {burn.recipe_version}" if burn.recipe_version else ""
        return Fine("settings_are_tested", "Recipe", f"{burn.recipe}{version}")
    begun = f", begun from {burn.start_from}" if burn.start_from else ""
    return Finding(
        "settings_are_tested",
        Severity.CAUTION,
        "burn",
        f"No recipe says how {spec.substrate.name} burns on {spec.machine.name}: "
        "its speed and power are not tested there.",
        f"{burn.power:g} %, {burn.speed_mm_s:g} mm/s{begun}",
    )


def dose_as_the_recipe(facts: Facts) -> Finding | Fine | None:
    """Solid areas get the dose that the recipe was made for."""
    spec = facts.spec
    times = exposure(spec)
    if not spec.burn.recipe_dose or spec.card:
        return None
    if abs(times - 1) <= _NEAR:
        return Fine("dose_as_the_recipe", "Dose and recipe", f"{times:.2f} times")
    speed = round(spec.burn.speed_mm_s * times, 1)
    fits = speed <= spec.machine.max_speed_mm_s
    way = "stronger" if times > 1 else "weaker"
    return Finding(
        "dose_as_the_recipe",
        Severity.CAUTION,
        "burn",
        f"Dots get a {way} dose than the recipe was made for, so tones will not be even.",
        f"{times:.2f} times the recipe's",
        Fix(f"Set {speed:g} mm/s", {"burn": {"speed_mm_s": speed}}) if fits else None,
    )


def short_runs(facts: Facts) -> Finding | Fine | None:
    """No run of dots is shorter than what the beam burns while it comes up."""
    spec, count = facts.spec, facts.short_runs
    if count is None or not least_run_mm(spec):
        return None
    least = f"shorter than {least_run_mm(spec):.3f} mm"
    kept = spec.keeps_dots
    if not count or (spec.dots.runs != "keep" and not kept):
        done = {"drop": ", dropped", "lengthen": ", lengthened"}.get(spec.dots.runs, "")
        return Fine("short_runs", "Runs " + least, f"{count:,}{done if count else ''}")
    return Finding(
        "short_runs",
        Severity.NOTE,
        "dots",
        "Some runs of dots end before the beam is fully up; they will burn too light.",
        f"{count:,} runs {least}",
        None if kept else Fix("Lengthen them", {"dots": {"runs": "lengthen"}}),
    )


def lightest_tone_marks(facts: Facts) -> Finding | Fine | None:
    """With continuous power, the weakest power used is one the beam marks with."""
    spec = facts.spec
    dots, least = spec.dots, spec.machine.lowest_power
    if dots.method != "power" or spec.keeps_dots or not least:
        return None
    low, high = sorted((dots.floor, dots.ceiling))
    weakest = spec.burn.power * (low + (high - low) / (dots.steps - 1)) / 100
    figure = f"{weakest:.1f} % asked, {least:g} % is the least"
    if weakest >= least - 1e-6:
        return Fine("lightest_tone_marks", "Lightest tone", figure)
    floor = math.ceil(10 * 100 * least / spec.burn.power) / 10 if spec.burn.power else 100
    return Finding(
        "lightest_tone_marks",
        Severity.CAUTION,
        "dots",
        "The lightest tones ask for less power than the beam marks with, and stay bare.",
        figure,
        Fix(f"Set least power {floor:g} %", {"dots": {"floor": floor}})
        if floor < dots.ceiling
        else None,
    )
