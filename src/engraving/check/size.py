"""Rules about the picture's size on the blank, and the side that is looked at."""

import math

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.jobspec import JobSpec, SizePart
from engraving.place import edge_bleed_mm, engravable_box, pieces

_SLACK = 1e-6
MOST_STRETCHED = 0.01
"""Less is not seen (common practice, no source)."""


@rule()
def inside_the_blank(facts: Facts) -> Finding | Fine | None:
    """The picture lies inside the blank's engravable area, or is cut to it."""
    spec = facts.spec
    size, blank = spec.size, spec.blank
    if blank.keep_inside:
        share = f" by {100 * facts.off_blank:.1f} %" if facts.off_blank else " to it"
        bleed = edge_bleed_mm(size)
        label = f"The blank and {bleed:.1f} mm round it" if bleed else "Inside the blank"
        return Fine("inside_the_blank", label, f"cut{share}")
    over = _beyond_mm(size, spec)
    if over <= _SLACK:
        return Fine("inside_the_blank", "Inside the blank", f"{max(0.0, -over):.1f} mm")
    return Finding(
        "inside_the_blank",
        Severity.CAUTION,
        "blank",
        "The picture reaches beyond the blank, so its edge would burn the bed.",
        f"{over:.1f} mm beyond {blank.name}",
        Fix("Keep dots inside", {"blank": {"keep_inside": True}}),
    )


def _beyond_mm(size: SizePart, spec: JobSpec) -> float:
    """Return how far the picture reaches over the engravable area; below 0 is room."""
    x, y, width, height = engravable_box(spec.blank)
    off_x, off_y = abs(size.offset_x_mm - x), abs(size.offset_y_mm - y)
    across = off_x + size.width_mm / 2 - width / 2
    down = off_y + size.height_mm / 2 - height / 2
    if spec.mount.wrap:  # there is no edge along the way round
        return down
    round_face = spec.blank.shape in ("disc", "oval") and spec.blank.area is None
    if round_face:
        corner = math.hypot(
            (2 * off_x + size.width_mm) / width, (2 * off_y + size.height_mm) / height
        )
        return max(across, down, (corner - 1) * min(width, height) / 2)
    return max(across, down)


def stretch(spec: JobSpec) -> float:
    """Return how much wider a piece's picture is burned than it is; 0 is as it is."""
    if spec.keeps_dots or spec.mount.wrap:
        return 0.0
    size = spec.size
    return size.width_mm / size.height_mm / (spec.artwork.ratio * size.repeat) - 1


@rule(of_rows=True)
def keeps_its_ratio(facts: Facts) -> Finding | Fine | None:
    """No piece's picture is pulled wider or narrower than it is."""
    if facts.spec.card:
        return None
    worst = max((stretch(one) for one in pieces(facts.spec)), key=abs, default=0.0)
    if abs(worst) <= MOST_STRETCHED:
        return Fine("keeps_its_ratio", "Width to height", "as in the picture")
    way = "wider" if worst > 0 else "narrower"
    return Finding(
        "keeps_its_ratio",
        Severity.CAUTION,
        "blank",
        "The picture is stretched: circles burn as ovals.",
        f"{100 * abs(worst):.1f} % {way} than the picture",
    )


@rule(of_rows=True)
def source_is_large_enough(facts: Facts) -> Finding | Fine | None:
    """At least one source pixel feeds each dot."""
    spec = facts.spec
    if spec.keeps_dots:
        return None
    per_dot = spec.source_per_dot
    if per_dot >= 1 - 1e-3:
        return Fine("source_is_large_enough", "Source pixels per dot", f"{per_dot:.2f}")
    pitch = spec.size.pitch_mm / per_dot
    change = {"pitch_mm": round(pitch, 4)}
    if spec.size.dot_pitch_mm:
        change["dot_pitch_mm"] = round(spec.size.dot_pitch_mm / per_dot, 4)
    return Finding(
        "source_is_large_enough",
        Severity.CAUTION,
        "blank",
        "The picture has fewer pixels than the burn has dots, so it will look soft.",
        f"{per_dot:.2f} source pixels for each dot",
        Fix(f"Set {pitch:.3f} mm rows", {"size": change}) if pitch <= 1 else None,
    )


@rule(of_rows=True, of="dots")
def pitch_against_spot(facts: Facts) -> Finding | Fine | None:
    """Rows lie no closer than the beam is wide."""
    if facts.spec.card:
        return None
    pitch, spot = facts.spec.size.pitch_mm, facts.spec.machine.spot_mm
    if pitch >= spot - _SLACK:
        return Fine("pitch_against_spot", "Rows and spot", f"{pitch:.3f}, {spot:.3f} mm")
    return Finding(
        "pitch_against_spot",
        Severity.CAUTION,
        "blank",
        "Rows lie closer than the spot is wide, so neighbouring dots run together.",
        f"{pitch:.3f} mm rows, {spot:.3f} mm spot",
        _as_far_as_the_spot(facts.spec),
    )


def _as_far_as_the_spot(spec: JobSpec) -> Fix:
    """Lay rows a spot apart; of kept dots the piece grows with them."""
    size, spot = spec.size, spec.machine.spot_mm
    if not spec.keeps_dots:
        return Fix(f"Set {spot:.3f} mm", {"size": {"pitch_mm": spot}})
    times = spot / size.pitch_mm
    new: dict[str, float] = {
        "pitch_mm": spot,
        "width_mm": size.width_mm * times,
        "height_mm": size.height_mm * times,
    }
    if size.dot_pitch_mm:
        new["dot_pitch_mm"] = size.dot_pitch_mm * times
    wide, high = new["width_mm"], new["height_mm"]
    return Fix(f"Set {spot:.3f} mm, {wide:.1f} × {high:.1f} mm large", {"size": new})
