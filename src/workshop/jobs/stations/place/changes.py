"""The place station: what its fields show, and what a change of them does."""

from typing import Any

from engraving.jobspec import FixturePart, JobSpec
from engraving.place import anchor_of, from_anchor
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.artwork.across import lay_across, take_off_across
from workshop.jobs.stations.edit import Edit
from workshop.jobs.stations.place.fixture import (
    changed_fixture,
    pocket_words,
    shown_pocket,
)
from workshop.jobs.stations.place.mount import apply_mount, show_mount
from workshop.jobs.stations.place.points import apply_points, read_from
from workshop.jobs.stations.shelf_items import (
    centre_on_bed,
)


def show_place(spec: JobSpec, _job: Job) -> dict[str, Any]:
    """Return what the place station's fields show."""
    x, y = anchor_of(spec.size, spec.place, spec.place.anchor)
    from_x, from_y = read_from(spec)
    fixture = spec.fixture or FixturePart(columns=2)
    return {
        "anchor": spec.place.anchor,
        "x": x - from_x,
        "y": y - from_y,
        "centre": False,
        "turn": spec.place.turn_deg,
        "zero": spec.place.zero,
        "point": spec.place.point,
        "point_keep": "",
        "point_drop": "",
        "fixture": spec.fixture is not None,
        "columns": fixture.columns,
        "rows": fixture.rows,
        "gap_x": fixture.gap_x_mm,
        "gap_y": fixture.gap_y_mm,
        "order": fixture.order,
        "picture": fixture.picture,
        "gap": fixture.gap,
        "pause": fixture.pause,
        "first_number": fixture.first_number,
        "digits": fixture.digits,
        "words": pocket_words(spec),
        **shown_pocket(spec),
        "shown": None,
        "pocket_toggle": None,
        **show_mount(spec),
    }


def apply_place(edit: Edit) -> None:
    """Apply what was changed on the place station."""
    apply_mount(edit)
    _apply_fixture(edit)
    apply_points(edit)
    if edit.has("mount"):
        edit.spec = centre_on_bed(edit.spec)
    if edit.has("turn"):
        edit.spec = updated(edit.spec, {"place": {"turn_deg": edit.changes["turn"] or 0.0}})
    spec = edit.spec
    if edit.changes.get("centre"):
        edit.spec = centre_on_bed(spec)
        return
    if edit.has("x", "y"):
        shown = show_place(spec, edit.job)
        anchor = edit.changes.get("anchor", shown["anchor"])
        x = edit.changes.get("x", shown["x"])
        y = edit.changes.get("y", shown["y"])
        from_x, from_y = read_from(spec)
        turn = spec.place.turn_deg
        left, front = from_anchor(spec.size, anchor, x + from_x, y + from_y, turn)
        spec = updated(spec, {"place": {"x_mm": left, "y_mm": front}})
    if edit.has("anchor"):
        spec = updated(spec, {"place": {"anchor": edit.changes["anchor"]}})
    edit.spec = spec


_OF_FIXTURE = {
    "columns", "rows", "gap_x", "gap_y", "order", "picture", "gap", "pause", "first_number",
    "digits", "words", "shown", "pocket_toggle", "pocket_x", "pocket_y", "pocket_turn",
    "pocket_grid",
}  # fmt: skip


def _apply_fixture(edit: Edit) -> None:
    """Switch the fixture on or off, or change it; a new one is laid in the bed's middle."""
    if edit.has("fixture") and not edit.changes["fixture"]:
        take_off_across(edit)
        edit.spec = updated(edit.spec, {"fixture": None})
        return
    fresh = edit.has("fixture")
    if not fresh and (edit.spec.fixture is None or not edit.has(*_OF_FIXTURE)):
        return
    before = edit.spec.fixture or FixturePart(columns=2)
    data = changed_fixture(edit.spec, before, edit.changes)
    if edit.has("picture") and edit.changes["picture"] != "across":
        take_off_across(edit)
    edit.spec = updated(edit.spec, {"fixture": data})
    if edit.has("picture", "columns", "rows", "gap", "gap_x", "gap_y"):
        lay_across(edit)
    if fresh or edit.has("columns", "rows"):
        edit.spec = centre_on_bed(edit.spec)
