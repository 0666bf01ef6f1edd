"""Rules on what is done to the blank, in which order, and where."""

from itertools import combinations

from shapely import STRtree
from shapely.affinity import rotate, translate

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Fine, Fix, Severity, rule
from engraving.jobspec import RANK, PocketPart
from engraving.outline import blank_area
from engraving.place import Box, inside_bed, piece_box, pieces

_SLACK = 1e-6
_HAIR_MM2 = 0.05


@rule()
def something_is_included(facts: Facts) -> Finding | None:
    """Picture or outlines: something is done to the blank, at a speed that can be run."""
    spec = facts.spec
    on = [one for one in spec.outlines if one.on]
    if not spec.raster and not on:
        return Finding(
            "something_is_included",
            Severity.STOP,
            "outlines",
            "Neither the picture nor an outline is included, so nothing would be done.",
            "0 operations",
        )
    most = min(spec.machine.max_speeds)
    fast = [one for one in on if one.speed_mm_s > most]
    if fast:
        return Finding(
            "something_is_included",
            Severity.STOP,
            "outlines",
            "The machine cannot follow an outline that fast.",
            f"{fast[0].speed_mm_s:g} mm/s wanted, {most:g} mm/s possible",
        )
    return None


@rule()
def cut_loose_last(facts: Facts) -> Finding | Fine | None:
    """What is cut loose may shift or fall: everything else comes before."""
    spec = facts.spec
    on = [one for one in spec.operations if one.on]
    cuts = [at for at, one in enumerate(on) if one.kind == "cut"]
    if not cuts:
        return None
    late = [one for one in on[cuts[0] :] if one.kind != "cut"]
    if not late:
        return Fine("cut_loose_last", "Cut after all else", f"{len(on)} operations")
    ordered = sorted(spec.operations, key=lambda one: RANK[one.kind])
    return Finding(
        "cut_loose_last",
        Severity.CAUTION,
        "outlines",
        "The piece is cut loose before it is finished; it may shift or fall by then.",
        f"{late[0].kind} after the cut",
        Fix("Cut last", {"operations": [one.model_dump(mode="json") for one in ordered]}),
    )


@rule()
def inside_before_outside(facts: Facts) -> Finding | None:
    """A cut inside another is made while the other still holds it."""
    spec, spans = facts.spec, facts.spans
    if spans is None:
        return None
    cuts = [
        (at, spans[at])
        for at, one in enumerate(spec.operations)
        if one.on and one.kind == "cut" and at in spans
    ]
    for (first, outer), (second, inner) in combinations(cuts, 2):
        if _holds(outer, inner):
            order = list(spec.operations)
            order.insert(first, order.pop(second))
            return Finding(
                "inside_before_outside",
                Severity.CAUTION,
                "outlines",
                "A cut lies inside one that is made before it, and would move with it.",
                f"operation {second + 1} inside {first + 1}",
                Fix(
                    "Cut the inner one first",
                    {"operations": [one.model_dump(mode="json") for one in order]},
                ),
            )
    return None


@rule()
def blanks_lie_apart(facts: Facts) -> Finding | Fine | None:
    """No blank of a fixture lies over another; on the grid they cannot."""
    spec = facts.spec
    fixture = spec.fixture
    if fixture is None or not any(_off_grid(one) for one in fixture.pockets):
        return None
    lying = []
    for piece in pieces(spec):
        turned = rotate(blank_area(piece), piece.place.turn_deg, origin=(0, 0))
        lying.append(translate(turned, *piece_box(piece.size, piece.place).middle))
    first, second = STRtree(lying).query(lying, predicate="intersects")
    over = [
        lying[i].intersection(lying[j]).area
        for i, j in zip(first, second, strict=True)
        if i < j
    ]
    most = max(over, default=0.0)
    if most < _HAIR_MM2:
        return Fine("blanks_lie_apart", "Blanks apart", f"{len(lying)}")
    count = sum(one >= _HAIR_MM2 for one in over)
    return Finding(
        "blanks_lie_apart",
        Severity.CAUTION,
        "place",
        "Blanks of the fixture would lie over one another.",
        f"{count} pair{'s' if count != 1 else ''}, {most:.1f} mm² at most",
    )


def _off_grid(pocket: PocketPart) -> bool:
    return pocket.x_mm is not None or pocket.y_mm is not None or bool(pocket.turn_deg)


@rule()
def outlines_are_there(facts: Facts) -> Finding | None:
    """What is included has lines, and they lie on the bed."""
    spec, reaches = facts.spec, facts.reaches
    if reaches is None:
        return None
    for at, one in enumerate(spec.operations):
        if not one.on or one.kind == "raster":
            continue
        if at not in reaches:
            return Finding(
                "outlines_are_there",
                Severity.STOP,
                "outlines",
                "An operation has no lines: nothing was found or drawn for it.",
                f"operation {at + 1}, {one.name or one.kind}",
            )
        if not inside_bed(reaches[at], spec.machine):
            return Finding(
                "outlines_are_there",
                Severity.STOP,
                "place",
                "Its lines reach beyond the bed, where the head would hit its end.",
                f"operation {at + 1}, {one.name or one.kind}",
            )
    return None


def _holds(outer: Box, inner: Box) -> bool:
    return (
        outer.left <= inner.left + _SLACK
        and outer.front <= inner.front + _SLACK
        and outer.right >= inner.right - _SLACK
        and outer.back >= inner.back - _SLACK
    )
