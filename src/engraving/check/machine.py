"""Rules on the machine itself: what it says, what was measured on it, what it may take."""

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Severity, rule
from engraving.history import AS_PLANNED
from engraving.units import MEGABYTE

_A_MINUTE = 60.0
_MEASURED_FROM_MM_S = 50.0
"""Return rows lie off by more than is seen only when run faster (common practice)."""


@rule()
def shelf_and_machine_agree(facts: Facts) -> Finding | Fine | None:
    """What the machine said of itself when it was asked last is what the shelf says."""
    if facts.shelf is None:
        return None
    unlike = facts.shelf.unlike
    if not unlike:
        return None
    return Finding(
        "shelf_and_machine_agree",
        Severity.CAUTION,
        "burn",
        "The machine said something else of itself than the shelf does; times and powers "
        "would be off. Ask it again, and take what is right.",
        "; ".join(unlike)[:200],
    )


@rule(of_rows=True, of="beam")
def return_rows_were_measured(facts: Facts) -> Finding | Fine | None:
    """Rows burned both ways lie over one another because that was measured."""
    spec = facts.spec
    if spec.card or not spec.burn.both_ways or spec.machine.touches:
        return None
    count = len(spec.machine.row_shift)
    if count:
        return Fine("return_rows_were_measured", "Return rows", f"{count} speeds measured")
    if spec.burn.speed_mm_s < _MEASURED_FROM_MM_S:
        return None
    return Finding(
        "return_rows_were_measured",
        Severity.NOTE,
        "burn",
        "How far return rows lie off was never measured on this machine; edges may fray. A "
        "swatch card of return rows tells.",
        f"both ways at {spec.burn.speed_mm_s:g} mm/s",
    )


@rule()
def turns_were_measured(facts: Facts) -> Finding | Fine | None:
    """The steps of a turn are known, not guessed."""
    mount = facts.spec.mount
    if not mount.rotary:
        return None
    steps = f"{mount.steps_per_turn:g} a turn"
    if mount.steps_known == "measured":
        return Fine("turns_were_measured", "Steps measured", steps)
    return Finding(
        "turns_were_measured",
        Severity.CAUTION,
        "place",
        "The steps of a turn were never measured with this mount: a picture may come out "
        "stretched, and its ends not meet.",
        steps,
    )


@rule()
def within_the_time(facts: Facts) -> Finding | Fine | None:
    """It takes no longer than the operator wants to hear of."""
    most = facts.spec.machine.longest_min
    if not most or facts.timed is None:
        return None
    correction = facts.shelf.correction if facts.shelf else AS_PLANNED
    takes = correction.seconds(facts.timed.seconds, facts.timed.rows) / _A_MINUTE
    figure = f"{takes:.0f} min, {most:g} min are the limit"
    if takes <= most:
        return Fine("within_the_time", "Time", figure)
    return Finding(
        "within_the_time",
        Severity.CAUTION,
        "burn",
        "It takes longer than the limit that was set for this machine.",
        figure,
    )


@rule()
def fits_the_store(facts: Facts) -> Finding | Fine | None:
    """Its G-code is a single file, where the machine takes only so large ones."""
    size, most = facts.gcode_bytes, facts.spec.machine.file_mb
    if size is None or not most:
        return None
    figure = f"{size / MEGABYTE:.1f} MB, {most:g} MB a file"
    if size <= most * MEGABYTE:
        return Fine("fits_the_store", "Its file", figure)
    return Finding(
        "fits_the_store",
        Severity.NOTE,
        "run",
        "Its G-code is larger than the machine's store takes, and is cut where a row "
        "begins: start one file after the other, the piece not moved.",
        figure,
    )
