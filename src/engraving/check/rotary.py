"""Rules on pieces that are turned: mounted, not overlapping, clear of handles."""

import math

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Severity, rule
from engraving.jobspec import ROUND
from engraving.place import zones_hit


@rule()
def round_pieces_turn(facts: Facts) -> Finding | Fine | None:
    """A round piece is mounted to turn, and its picture does not overlap itself."""
    spec = facts.spec
    blank = spec.blank
    if blank.shape not in ROUND:
        return None
    if not spec.mount.rotary:
        return Finding(
            "round_pieces_turn",
            Severity.CAUTION,
            "place",
            "A round piece lies flat: without a chuck or rollers only a strip is in focus.",
            f"{blank.name}, {blank.width_mm / math.pi:.1f} mm across",
        )
    over = spec.size.width_mm - blank.width_mm
    if over > spec.size.along_mm:
        return Finding(
            "round_pieces_turn",
            Severity.STOP,
            "blank",
            "The picture is longer than the way round, so it would burn over itself.",
            f"{over:.1f} mm more than {blank.width_mm:.1f} mm",
        )
    name = f"{spec.mount.kind}, {blank.width_mm / math.pi:.2f} mm"
    return Fine("round_pieces_turn", "Mount and diameter", name)


@rule()
def the_seam_is_closed(facts: Facts) -> Finding | Fine | None:
    """A picture that goes all round ends where it began, to the dot."""
    spec = facts.spec
    if not spec.mount.rotary:
        return None
    size, around = spec.size, spec.blank.width_mm
    gap = around - size.width_mm
    if spec.mount.wrap or gap > 0.05 * around:
        closed = spec.mount.wrap and abs(around - size.cols * size.along_mm) < size.along_mm
        return Fine("the_seam_is_closed", "Seam", f"{gap:.3f} mm open") if closed else None
    if abs(gap) <= size.along_mm:
        return None
    return Finding(
        "the_seam_is_closed",
        Severity.CAUTION,
        "place",
        "The picture goes nearly all round, and a bare line will show at the seam.",
        f"{gap:.2f} mm of {around:.1f} mm stay open",
    )


@rule()
def clear_of_handles(facts: Facts) -> Finding | Fine | None:
    """Nothing is burned where the wall is kept clear."""
    spec = facts.spec
    if not spec.mount.rotary or not spec.mount.zones:
        return None
    hit = zones_hit(spec)
    if not hit:
        return Fine("clear_of_handles", "Kept clear", f"{len(spec.mount.zones)} places")
    zone, over = hit[0]
    return Finding(
        "clear_of_handles",
        Severity.STOP,
        "place",
        "The picture runs over a part of the wall that is kept clear.",
        f"{over:.1f} mm over “{zone.name}”",
    )


@rule()
def strips_show(facts: Facts) -> Finding | None:
    """Where one strip ends and the next begins, a line may be seen."""
    spec = facts.spec
    wide = spec.mount.strip_mm
    if not spec.mount.rotary or not wide or wide >= spec.size.height_mm:
        return None
    return Finding(
        "strips_show",
        Severity.CAUTION,
        "place",
        "It is burned in strips, and where two of them meet a line may be seen.",
        f"{math.ceil(spec.size.height_mm / wide)} strips of {wide:.1f} mm",
    )
