"""Where positions are read from: the bed, the head, or a point kept with the machine."""

from typing import Any

from engraving.errors import InputError
from engraving.jobspec import JobSpec
from engraving.place import anchor_of
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.edit import Edit
from workshop.shelf.machines.changes import keep_points


def read_from(spec: JobSpec) -> tuple[float, float]:
    """Return the place on the bed that the operator's positions are counted from."""
    if spec.place.zero != "point":
        return 0.0, 0.0
    return spec.machine.point(spec.place.point) or (0.0, 0.0)


def apply_points(edit: Edit) -> None:
    """Keep the anchor's place as a point, drop one, or choose what is read from."""
    if edit.changes.get("point_keep"):
        _keep(edit, edit.changes["point_keep"].strip())
    if edit.changes.get("point_drop"):
        name = edit.changes["point_drop"]
        _put(edit, [one for one in edit.spec.machine.points if one[0] != name])
        if edit.spec.place.point == name:
            edit.spec = updated(edit.spec, {"place": {"zero": "bed", "point": ""}})
    if edit.has("zero"):
        _choose_zero(edit, edit.changes["zero"])
    if edit.has("point") and edit.spec.machine.point(edit.changes["point"]) is not None:
        edit.spec = updated(edit.spec, {"place": {"point": edit.changes["point"]}})


def _choose_zero(edit: Edit, zero: str) -> None:
    known = [name for name, _, _ in edit.spec.machine.points]
    if zero == "point" and not known:
        raise InputError(
            "This machine has no point yet; name one under Points of this machine.",
            field="zero",
        )
    point = edit.spec.place.point if edit.spec.place.point in known else ""
    if zero == "point" and not point:
        point = known[0]
    edit.spec = updated(edit.spec, {"place": {"zero": zero, "point": point}})


def _keep(edit: Edit, name: str) -> None:
    x, y = anchor_of(edit.spec.size, edit.spec.place, edit.spec.place.anchor)
    others = [one for one in edit.spec.machine.points if one[0] != name]
    _put(edit, [*others, (name, round(x, 4), round(y, 4))])


def _put(edit: Edit, points: list[Any]) -> None:
    """Change the points of the job's machine, here and on the shelf."""
    edit.spec = updated(edit.spec, {"machine": {"points": points}})
    if edit.job.machine is not None:
        keep_points(edit.job.machine, edit.spec.machine.points)
