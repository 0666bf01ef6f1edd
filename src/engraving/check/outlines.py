"""Rules on what following outlines met with: lines lost, merged, or without room."""

from collections.abc import Callable

from engraving.check.facts import Facts
from engraving.check.findings import Finding, Severity, rule
from engraving.jobspec import OperationPart
from engraving.outline import FollowNotes

_Figure = Callable[[FollowNotes, OperationPart], str | int | bool | None]
"""Returns what it has to say; anything that is false where it has nothing."""


def _first(
    facts: Facts, rule: str, severity: Severity, sentence: str, figure: _Figure
) -> Finding | None:
    """Return a finding on the first outline that `figure` has something to say of."""
    told = facts.outlines or {}
    for at, one in enumerate(facts.spec.operations):
        said = figure(told[at], one) if one.on and at in told else None
        if said:
            whose = f"{said}, operation {at + 1}"
            return Finding(rule, severity, "outlines", sentence, whose)
    return None


def _counted(count: int, what: str) -> str | None:
    return f"{count} {what}{'s' if count != 1 else ''}" if count else None


@rule()
def outlines_have_width(facts: Facts) -> Finding | None:
    """No outline is lost because it is narrower than its offset or the cut."""
    return _first(
        facts,
        "outlines_have_width",
        Severity.CAUTION,
        "Outlines are too narrow for their offset or kerf, and have no line.",
        lambda told, _: _counted(told.vanished, "outline"),
    )


@rule()
def kerf_leaves_parts_whole(facts: Facts) -> Finding | None:
    """Parts lie farther apart than the cut is wide."""
    return _first(
        facts,
        "kerf_leaves_parts_whole",
        Severity.CAUTION,
        "Parts lie closer than the cut is wide; each loses up to half of it there.",
        lambda told, one: (
            told.gaps
            and f"{_counted(told.gaps, 'pair')}, {told.nearest_mm:.2f} mm apart at the "
            f"narrowest, kerf {one.kerf_mm:.2f} mm"
        ),
    )


@rule()
def all_areas_are_traced(facts: Facts) -> Finding | None:
    """The picture has no more areas than are traced."""
    return _first(
        facts,
        "all_areas_are_traced",
        Severity.CAUTION,
        "The picture has more areas than are traced; keep larger ones, or blur it.",
        lambda told, _: told.capped and f"the {told.capped} largest",
    )


@rule()
def bridges_fit(facts: Facts) -> Finding | None:
    """Every outline is longer than its bridges."""
    return _first(
        facts,
        "bridges_fit",
        Severity.CAUTION,
        "Outlines are too short for their bridges, and are cut loose.",
        lambda told, _: _counted(told.unbridged, "outline"),
    )


@rule()
def lead_ins_fit(facts: Facts) -> Finding | None:
    """Beside every outline there is scrap to pierce in."""
    return _first(
        facts,
        "lead_ins_fit",
        Severity.CAUTION,
        "There is no room for a lead-in beside some outlines; the beam pierces on their "
        "edge.",
        lambda told, _: _counted(told.no_lead, "outline"),
    )


@rule()
def hole_lies_in_material(facts: Facts) -> Finding | None:
    """The hole to hang the piece by is cut in the piece."""
    return _first(
        facts,
        "hole_lies_in_material",
        Severity.CAUTION,
        "The hole to hang it by does not lie in the material, or is narrower than the cut.",
        lambda told, one: (
            told.hole_off
            and f"{one.hole_mm:g} mm wide, {one.hole_inset_mm:g} mm below the edge"
        ),
    )


@rule()
def lines_once(facts: Facts) -> Finding | None:
    """What was drawn twice is cut once, and that is said."""
    return _first(
        facts,
        "lines_once",
        Severity.NOTE,
        "Lines that lie on one another are cut once.",
        lambda told, _: _counted(told.merged, "line"),
    )


@rule()
def ends_were_closed(facts: Facts) -> Finding | None:
    """Ends that nearly meet were joined, and that is said."""
    return _first(
        facts,
        "ends_were_closed",
        Severity.NOTE,
        "Loose ends that nearly met were joined.",
        lambda told, one: (
            told.closed and f"{_counted(told.closed, 'gap')}, up to {one.join_mm:g} mm"
        ),
    )


@rule()
def drawing_came_whole(facts: Facts) -> Finding | None:
    """What of a drawing's file was not taken is said."""
    return _first(
        facts,
        "drawing_came_whole",
        Severity.NOTE,
        "Parts of the drawing's file are left out, being hidden or no lines.",
        lambda _, one: one.shape == "drawn" and ", ".join(one.drawing.missing),
    )
