"""Rules on how much is burned, how strongly, and whether the beam can."""

import math

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.jobspec import JobSpec, Polarity
from engraving.recipe import exposure, least_run_mm, quickest_mm_s

MOST_BURNED = 0.62
NEAR_DOSE = 0.1
"""A dose that differs by less burns alike (common practice, no source)."""
_HARDLY = 0.2
"""Of a subject that was cut out, less is a sign of the wrong tones (common practice)."""


@rule(of_rows=True, of="dots")
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


@rule(of_rows=True, of="dots")
def hardly_burned(facts: Facts) -> Finding | Fine | None:
    """Of a picture cut out by transparency, more than its light edges is burned.

    A dark logo on what the beam lightens burns nothing but its rim.
    """
    spec = facts.spec
    if not facts.opaque or facts.burned_dots is None or spec.card:
        return None
    if spec.burns_dark or spec.keeps_dots:
        return None
    inside = facts.opaque * spec.size.cols * spec.size.rows
    share = min(facts.burned_dots / inside, 1.0)
    if share >= _HARDLY:
        return Fine("hardly_burned", "Of what is opaque", f"{100 * share:.1f} % burned")
    return Finding(
        "hardly_burned",
        Severity.CAUTION,
        "blank",
        "The picture is dark and light tones are burned here, so hardly any of it would "
        "show.",
        f"{100 * share:.1f} % of what is not transparent",
        Fix("Invert it", {"side": {"invert": "yes"}}) if not spec.inverted else None,
    )


@rule(of_rows=True, of="beam")
def settings_are_tested(facts: Facts) -> Finding | Fine | None:
    """Speed and power come from a recipe for this substrate on this machine."""
    spec = facts.spec
    burn = spec.burn
    if spec.card:
        return None
    if burn.recipe:
        version = f" v{burn.recipe_version}" if burn.recipe_version else ""
        return Fine("settings_are_tested", "Recipe", f"{burn.recipe}{version}")
    begun = f", begun from {burn.begun_with}" if burn.begun_with else ""
    return Finding(
        "settings_are_tested",
        Severity.CAUTION,
        "burn",
        f"No recipe says how {spec.substrate.name} burns on {spec.machine.name}: "
        "its speed and power are not tested there.",
        f"{burn.power:g} %, {burn.speed_mm_s:g} mm/s{begun}",
    )


@rule(of_rows=True, of="dots")
def dose_as_the_recipe(facts: Facts) -> Finding | Fine | None:
    """Solid areas get the dose that the recipe was made for."""
    spec = facts.spec
    times = exposure(spec)
    if not spec.burn.recipe_dose or spec.card:
        return None
    if abs(times - 1) <= NEAR_DOSE:
        return Fine("dose_as_the_recipe", "Dose and recipe", f"{times:.2f} times")
    way = "stronger" if times > 1 else "weaker"
    return Finding(
        "dose_as_the_recipe",
        Severity.CAUTION,
        "burn",
        f"Dots get a {way} dose than the recipe was made for, so tones will not be even.",
        f"{times:.2f} times the recipe's",
        even_dose(spec),
    )


def even_dose(spec: JobSpec) -> Fix | None:
    """Return the one change that gives solid areas the recipe's dose; None without one.

    By speed, up to the quickest: beyond that rows only take longer, so there
    the power follows.
    """
    times = exposure(spec)
    speed = round(spec.burn.speed_mm_s * times, 1)
    if speed <= quickest_mm_s(spec):
        return Fix(f"Set {speed:g} mm/s", {"burn": {"speed_mm_s": speed}})
    power = round(spec.burn.power / times, 1)
    if not max(spec.machine.lowest_power, 0.1) <= power <= 100:
        return None
    return Fix(f"Set {power:g} %", {"burn": {"power": power}})


@rule(of_rows=True, of="dots")
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


@rule(of_rows=True, of="dots")
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


@rule(of_rows=True)
def something_to_burn(facts: Facts) -> Finding | Fine | None:
    """At least one dot is burned."""
    if facts.burned_dots is None:
        return None
    total = facts.dots or facts.spec.size.cols * facts.spec.size.rows
    if facts.burned_dots:
        share = facts.burned_dots / total if facts.share is None else facts.share
        return Fine("something_to_burn", "Burned", f"{100 * share:.1f} %")
    return Finding(
        "something_to_burn",
        Severity.STOP,
        "tone",
        "No dot would be burned: the picture is all ground at these tones.",
        f"0 of {total:,} dots",
    )
