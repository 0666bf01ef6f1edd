"""Rules on pictures that are meant to cover their blank to the edge."""

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.jobspec import JobSpec
from engraving.place import edge_bleed_mm

_SPARE_MM = 0.5
"""A blank never lies truer than that (common practice, no source)."""


def _over(spec: JobSpec) -> dict[str, float]:
    """Return how far the picture reaches beyond each edge of the face, in mm."""
    size, blank = spec.size, spec.blank
    across = (size.width_mm - blank.width_mm) / 2
    deep = (size.height_mm - blank.height_mm) / 2
    over = {
        "left": across - size.offset_x_mm,
        "right": across + size.offset_x_mm,
        "back": deep + size.offset_y_mm,
        "front": deep - size.offset_y_mm,
    }
    if blank.keep_inside:
        # Dots are dropped there, however far the picture reaches.
        most = edge_bleed_mm(size) or -blank.margin_mm
        over = {side: min(value, most) for side, value in over.items()}
    if spec.mount.wrap:
        del over["left"], over["right"]
    return over


@rule(of_rows=True)
def edges_are_covered(facts: Facts) -> Finding | Fine | None:
    """A picture that is to cover its blank is burned beyond each edge."""
    spec = facts.spec
    if spec.size.fit != "cover" or spec.card or spec.blank.area:
        return None
    over = _over(spec)
    short = {side: value for side, value in over.items() if value < _SPARE_MM - 1e-6}
    if not short:
        least = min(over.values(), default=0.0)
        return Fine("edges_are_covered", "Beyond each edge", f"{least:.1f} mm")
    said = ", ".join(
        f"{side} {-value:.2f} mm short" if value < 0 else f"{side} {value:.2f} mm over"
        for side, value in short.items()
    )
    centred = not (spec.size.offset_x_mm or spec.size.offset_y_mm)
    return Finding(
        "edges_are_covered",
        Severity.CAUTION,
        "blank",
        "The picture is to cover the blank, and ends at its edge or short of it: where the "
        "blank lies a little off, a bare rim shows.",
        f"{said}; {_SPARE_MM:g} mm beyond the edge are safe",
        _bleeding(spec) if centred and not spec.keeps_dots else None,
    )


def _bleeding(spec: JobSpec) -> Fix:
    """Let the picture reach beyond every edge by what is safe."""
    size, more = spec.size, max(_SPARE_MM, spec.size.bleed_mm)
    wide, high = (side + 2 * more for side in (spec.blank.width_mm, spec.blank.height_mm))
    times = max(wide / size.width_mm, high / size.height_mm)
    width, height = size.width_mm * times, size.height_mm * times
    new = {"bleed_mm": more, "width_mm": width, "height_mm": height}
    return Fix(f"Bleed {more:g} mm", {"size": new})
