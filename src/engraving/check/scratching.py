"""Rules of a drag point: enough light in the picture, rows as far apart as it scratches."""

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.jobspec import FINEST_PITCH_MM

_LITTLE = 0.1
_APART = 0.2


@rule(of_rows=True)
def enough_is_light(facts: Facts) -> Finding | Fine | None:
    """A plate shows only what is light in the picture: there is enough of it.

    A tenth of the plate at least (common practice, no source).
    """
    spec = facts.spec
    if spec.marking.way != "drag" or facts.share is None:
        return None
    figure = f"{100 * facts.share:.0f} % scratched"
    if facts.share >= _LITTLE:
        return Fine("enough_is_light", "Light in the picture", figure)
    return Finding(
        "enough_is_light",
        Severity.CAUTION,
        "tone",
        "There is too little light in the picture: a point scratches only light parts, so "
        "most of the plate stays bare. Lighten it, or give it another picture.",
        figure,
    )


@rule(of_rows=True)
def rows_lie_a_mark_apart(facts: Facts) -> Finding | Fine | None:
    """Rows lie as far apart as the point's mark is wide."""
    spec = facts.spec
    if spec.marking.way != "drag":
        return None
    mark, pitch = spec.machine.spot_mm, spec.size.pitch_mm
    figure = f"rows {pitch:.3f} mm apart, mark {mark:.3f} mm"
    if abs(pitch - mark) <= _APART * mark:
        return Fine("rows_lie_a_mark_apart", "Rows and mark", figure)
    fits = mark >= FINEST_PITCH_MM and not spec.keeps_dots
    fix = Fix(
        f"Lay rows {mark:.2f} mm apart", {"size": {"pitch_mm": mark, "dot_pitch_mm": None}}
    )
    return Finding(
        "rows_lie_a_mark_apart",
        Severity.CAUTION,
        "blank",
        "Scratches as far apart as the mark is wide give the tones that were planned; "
        "wider ones leave ground between, closer ones go over one another.",
        figure,
        fix if fits else None,
    )
