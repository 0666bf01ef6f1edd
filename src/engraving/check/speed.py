"""What the machine can run at, and whether it gains by it."""

from typing import Any

from engraving.cards import fastest_mm_s, weakest_power
from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.recipe import quickest_mm_s, row_top_speed, smear_mm

_SLACK = 1e-6


@rule(of_rows=True)
def speed_in_range(facts: Facts) -> Finding | Fine | None:
    """The machine can run at the engraving speed."""
    spec = facts.spec
    speed = fastest_mm_s(spec)
    most = row_top_speed(spec)
    if speed <= most + _SLACK:
        return Fine("speed_in_range", "Speed", f"{speed:g} of {most:g} mm/s")
    return Finding(
        "speed_in_range",
        Severity.STOP,
        "burn",
        "The machine cannot run that fast."
        if spec.machine.touches
        else "The machine cannot run that fast, so it would burn slower and darker.",
        f"{speed:g} mm/s wanted, {most:g} mm/s possible",
        None if spec.card else Fix(f"Set {most:g} mm/s", {"burn": {"speed_mm_s": most}}),
    )


@rule(of_rows=True, of="beam")
def power_in_range(facts: Facts) -> Finding | Fine | None:
    """The beam marks at the set power."""
    spec = facts.spec
    power, least = weakest_power(spec), spec.machine.lowest_power
    if spec.card and 0 < power < least - _SLACK:
        # A card may well try what does not mark.
        return Fine("power_in_range", "Weakest cell", f"{power:g} %, {least:g} % marks")
    if power > 0 and power >= least - _SLACK:
        label = "Weakest cell" if spec.card else "Power"
        return Fine("power_in_range", label, f"{power:g} %")
    change: dict[str, Any] = {"burn": {"power": least}}
    return Finding(
        "power_in_range",
        Severity.STOP,
        "burn",
        "The beam does not mark at so little power.",
        f"{power:g} % set, {least:g} % is the least",
        Fix(f"Set {least:g} %", change) if least > 0 else None,
    )


@rule(of_rows=True, of="beam")
def faster_is_slower(facts: Facts) -> Finding | Fine | None:
    """Run-ups do not eat what the speed gains."""
    spec = facts.spec
    if spec.card:
        return None
    best = quickest_mm_s(spec)
    if spec.burn.speed_mm_s <= best + _SLACK:
        return Fine("faster_is_slower", "Quickest speed", f"{best:.0f} mm/s")
    return Finding(
        "faster_is_slower",
        Severity.NOTE,
        "burn",
        "Run-ups are longer than the rows, so a slower speed would finish sooner.",
        f"{spec.burn.speed_mm_s:g} mm/s set, quickest at {best:.0f} mm/s",
    )


@rule(of_rows=True, of="beam")
def beam_keeps_up(facts: Facts) -> Finding | Fine | None:
    """The beam comes up and goes out within a dot."""
    spec = facts.spec
    smear, dot = smear_mm(spec), spec.size.along_mm
    if not smear or spec.card or spec.machine.pulsed:
        return None
    figure = f"{smear / dot:.2f} dots of {dot:.3f} mm"
    if smear <= dot + _SLACK:
        return Fine("beam_keeps_up", "Smeared over", f"{smear / dot:.2f} dots")
    slower = round(spec.burn.speed_mm_s * dot / smear, 1)
    return Finding(
        "beam_keeps_up",
        Severity.CAUTION,
        "burn",
        "The head runs faster than the beam comes up and goes out, so dots smear along the "
        "rows.",
        figure,
        Fix(f"Set {slower:g} mm/s", {"burn": {"speed_mm_s": slower}}),
    )
