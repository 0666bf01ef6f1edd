"""Rules on the tones that are wanted: whether light and shade keep their drawing."""

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Severity, rule

_LOST = 0.1
"""Less is a deep shadow or a highlight, and meant (common practice, no source)."""


@rule(of_rows=True, of="tones")
def tones_are_kept(facts: Facts) -> Finding | Fine | None:
    """Shadows and lights are not driven into plain black and white."""
    if facts.lost is None or facts.spec.card or facts.spec.keeps_dots:
        return None
    dark, light = facts.lost
    figure = f"{100 * dark:.1f} % of it black, {100 * light:.1f} % white"
    if max(dark, light) <= _LOST:
        lost = f"{100 * dark:.1f}, {100 * light:.1f} %"
        return Fine("tones_are_kept", "Lost tones", lost)
    what = "dark: its shadows" if dark >= light else "light: its lights"
    return Finding(
        "tones_are_kept",
        Severity.CAUTION,
        "tone",
        f"The picture is too {what} have lost all drawing, which the file still has.",
        figure,
    )
