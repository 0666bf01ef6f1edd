"""Changes of the operations of a job, in their order."""

from typing import Any

import numpy as np
from numpy.typing import NDArray
from shapely import MultiPolygon, Polygon

from engraving.errors import InputError
from engraving.geometry.rotation import turned_points
from engraving.jobspec import RANK, DrawingPart, JobSpec, OperationPart
from engraving.outline import (
    candidates,
    read_dxf,
    read_svg,
    rings_of,
    without,
    write_dxf,
    write_svg,
)
from engraving.place import piece_box
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import change, spec_of, updated
from workshop.jobs.stations.outlines.choices import outline_kind_choices
from workshop.jobs.stations.outlines.facts import KIND_WORDS
from workshop.shelf.models import Recipe
from workshop.shelf.recipes.changes import recipe_part
from workshop.tasting import taste

_OFFSET_MM = 2.0
_ALL = 0.999
"""So much of the picture's rectangle is all of it."""
_MARKS_LIKE = {"speed_mm_s", "power", "passes", "air"}
"""What a score or a hatch takes over from the picture."""


def add(job: Job, kind: str, shape: str, drawing: DrawingPart | None = None) -> int:
    """Add an operation where it belongs in the order; return its place.

    It takes the first recipe of its kind for this machine and substrate. Without
    one, what only marks begins as strong as the picture is burned.

    Raises
    ------
    ValueError
        For a kind or shape that outlines cannot have.
    """
    if kind not in dict(outline_kind_choices()):
        raise ValueError(kind)
    spec = spec_of(job)
    outward = _OFFSET_MM if kind == "cut" and shape not in ("traced", "drawn") else 0.0
    values: dict[str, Any] = {"kind": kind, "shape": shape, "offset_mm": outward}
    if drawing is not None:
        values["drawing"] = drawing.model_dump(mode="json")
    fitting = fitting_recipes(job, [kind]).first()
    if fitting is not None:
        values |= _from_recipe(fitting)
    elif kind != "cut":
        values |= spec.burn.model_dump(include=_MARKS_LIKE)
    fresh = OperationPart.model_validate(values)
    at = _belongs_at(spec, fresh)
    parts = _parts(spec)
    parts.insert(at, fresh.model_dump(mode="json"))
    _keep(job, spec, parts, f"{KIND_WORDS[kind]} added")
    return at


def _belongs_at(spec: JobSpec, fresh: OperationPart) -> int:
    """Return where an operation belongs: engraving first, inside before outside."""
    after = [
        at for at, one in enumerate(spec.operations) if RANK[one.kind] <= RANK[fresh.kind]
    ]
    at = after[-1] + 1 if after else 0
    paths = pipeline().followed(spec, fresh).paths if fresh.kind == "cut" else []
    if not paths:
        return at
    own = Polygon(max(paths, key=len)).envelope if len(paths[0]) > 2 else None
    for place, span in pipeline().spans(spec).items():
        one = spec.operations[place]
        if own is None or one.kind != "cut":
            continue
        left, front, right, back = own.bounds
        if (
            span.left < left
            and span.front < front
            and span.right > right
            and span.back > back
        ):
            return min(at, place)
    return at


def add_file(job: Job, name: str, data: bytes) -> int:
    """Add the outlines of an SVG or DXF file, to be scored; return their place.

    Raises
    ------
    EngravingError
        When the file cannot be read.
    """
    dxf = name.lower().endswith(".dxf")
    taste("dxf" if dxf else "svg", data)
    read = read_dxf if dxf else read_svg
    return add(job, "score", "drawn", read(name, data))


def remove(job: Job, at: int) -> int:
    """Take an operation off the list, return the one before; the picture stays on it."""
    spec = spec_of(job)
    one = _at(spec, at)
    if one.kind == "raster":
        raise InputError("The picture stays on the list; switch it off instead.")
    parts = _parts(spec)
    parts.pop(at)
    _keep(job, spec, parts, f"{KIND_WORDS[one.kind]} removed")
    return max(at - 1, 0)


def move(job: Job, at: int, to: int) -> int:
    """Move an operation to another place of the order; return where it is then."""
    spec = spec_of(job)
    _at(spec, at)
    to = min(max(to, 0), len(spec.operations) - 1)
    parts = _parts(spec)
    parts.insert(to, parts.pop(at))
    _keep(job, spec, parts, "Order of operations")
    return to


def switch(job: Job, at: int, what: str) -> None:
    """Include an operation or not (``on``), or draw it on the bed or not (``seen``)."""
    spec = spec_of(job)
    one = _at(spec, at)
    parts = _parts(spec)
    parts[at][what] = not getattr(one, what)
    words = {"on": ("included", "left out"), "seen": ("seen", "hidden")}[what]
    _keep(job, spec, parts, f"{KIND_WORDS[one.kind]} {words[0 if parts[at][what] else 1]}")


def cut_around(job: Job) -> int:
    """Cut around what the mask keeps, or the picture; return the operation's place.

    Where that is on the list already, it is the one that is there.
    """
    spec = spec_of(job)
    kept = pipeline().areas_found(spec, OperationPart(shape="picture"))
    whole = spec.size.width_mm * spec.size.height_mm
    masked = kept is not None and not kept.is_empty and kept.area < _ALL * whole
    shape = "picture" if masked else "rectangle"
    for at, one in enumerate(spec.operations):
        if (one.kind, one.shape) == ("cut", shape):
            return at
    return add(job, "cut", shape)


def use_rings(job: Job, at: int, points: list[tuple[float, float]], *, use: bool) -> None:
    """Leave out the rings that some points mean, or use them again.

    Raises
    ------
    InputError
        When there are none, or one is not there any more.
    """
    spec = spec_of(job)
    one, areas = _chosen_from(spec, at, points)
    parts = _parts(spec)
    wanted = set(points)
    kept = [(x, y) for x, y in one.left_out if (x, y) not in wanted]
    if use:
        marks = {mark for _, mark in rings_of(areas)}
        # A seed of an older trace may mean a ring that has another mark by now.
        kept = [
            seed
            for seed in kept
            if seed in marks or not any(_means(areas, seed, point) for point in points)
        ]
    else:
        kept += points
    parts[at]["left_out"] = kept
    _keep(job, spec, parts, "Outlines used again" if use else "Outlines left out")


def split(
    job: Job,
    at: int,
    points: list[tuple[float, float]],
    by: tuple[float, float] = (0.0, 0.0),
) -> int:
    """Make the rings that some points mean an operation of their own; return its place.

    Parameters
    ----------
    points : list of (float, float)
        Each means a ring.
    by : tuple of float
        How far they are moved by that, mm to the right and to the back.

    Raises
    ------
    InputError
        When there are none, when all are chosen, or when what lies around them is used.
    """
    spec = spec_of(job)
    one, areas = _chosen_from(spec, at, points)
    others = [mark for _, mark in rings_of(areas) if mark not in points]
    if not others:
        raise InputError("All outlines are chosen; they are an operation already.")
    if one.inverted:
        raise InputError(
            "This operation goes round all of its outlines as one; it cannot be parted."
        )
    parts = _parts(spec)
    own = {
        **parts[at],
        "left_out": others,
        "move_x_mm": round(one.move_x_mm + by[0], 3),
        "move_y_mm": round(one.move_y_mm + by[1], 3),
    }
    parts[at]["left_out"] = [*one.left_out, *points]
    parts.insert(at + 1, own)
    _keep(job, spec, parts, "Outlines moved" if any(by) else "Outlines parted")
    return at + 1


def _chosen_from(
    spec: JobSpec, at: int, points: list[tuple[float, float]]
) -> tuple[OperationPart, MultiPolygon]:
    """Return an operation and all it could use, when every point means one of its rings."""
    one = _at(spec, at)
    areas, _ = candidates(one, pipeline().areas_found(spec, one))
    marks = {mark for _, mark in rings_of(areas)}
    if not points:
        raise InputError("Choose an outline on the table first.")
    if not marks.issuperset(points):
        raise InputError("An outline is not there any more; choose again.")
    return one, areas


def _means(
    areas: MultiPolygon, seed: tuple[float, float], point: tuple[float, float]
) -> bool:
    """Whether two points mean the same ring."""
    if seed == point:
        return True
    one, other = without(areas, [seed]), without(areas, [point])
    return bool(one.equals(other))


def use_all(job: Job, at: int) -> None:
    """Use every outline again."""
    spec = spec_of(job)
    _at(spec, at)
    parts = _parts(spec)
    parts[at]["left_out"] = []
    _keep(job, spec, parts, "All outlines used")


def edit(job: Job, at: int, changes: dict[str, Any]) -> None:
    """Apply changed fields of an operation.

    Raises
    ------
    InputError
        When the result is no operation; ``field`` names the value at fault.
    """
    spec = spec_of(job)
    one = _at(spec, at)
    data = one.model_dump(mode="json")
    if "bridge_shift" in changes:
        changes["bridge_shift"] /= 100
    if "tool_deg" in changes:
        data["tool"] = _tool_of(spec, changes.pop("tool_deg"))
    recipe = changes.pop("recipe", None)
    if recipe:
        data |= _from_recipe(recipe)
    _put_trace(spec, data, changes)
    if one.lock_scale and "lock_scale" not in changes:
        _tie_scales(one, changes)
    data |= {name: value for name, value in changes.items() if name in data}
    parts = _parts(spec)
    parts[at] = data
    label = ", ".join(sorted(changes)) if not recipe else "recipe"
    _keep(job, spec, parts, f"{KIND_WORDS[data['kind']]}: {label.replace('_', ' ')}")


def _tool_of(spec: JobSpec, angle_deg: float) -> dict[str, Any] | None:
    """Return an operation's own tool; none where it is the picture's."""
    own = spec.marking.carving.tool
    if angle_deg == own.angle_deg:
        return None
    name = f"V-tool {angle_deg:g}°"
    return own.model_copy(update={"angle_deg": angle_deg, "name": name}).model_dump()


_TRACE = {"lightest", "darkest", "smooth_mm", "least_mm"}
_PART = {
    "part_left": "left",
    "part_top": "top",
    "part_width": "width",
    "part_height": "height",
}


def _put_trace(spec: JobSpec, data: dict[str, Any], changes: dict[str, Any]) -> None:
    trace = data["trace"]
    for name in _TRACE & set(changes):
        trace[name] = changes.pop(name)
    if "trace_corner" in changes:
        trace["corner_deg"] = changes.pop("trace_corner")
    for name in set(_PART) & set(changes):
        side = (
            spec.size.width_mm
            if name in ("part_left", "part_width")
            else spec.size.height_mm
        )
        trace[_PART[name]] = min(max(changes.pop(name) / side, 0.0), 1.0)


def _tie_scales(one: OperationPart, changes: dict[str, Any]) -> None:
    """Let a locked scale take the other with it."""
    for name, other in (("scale_x", "scale_y"), ("scale_y", "scale_x")):
        if name in changes and other not in changes:
            changes[other] = getattr(one, other) * changes[name] / getattr(one, name)
            return


def _from_recipe(recipe: Recipe) -> dict[str, Any]:
    part = recipe_part(recipe)
    values: dict[str, Any] = {
        "recipe": recipe.name, "recipe_version": recipe.version, "power": part.power,
        "speed_mm_s": part.speed_mm_s, "passes": part.passes, "air": part.air,
        "focus_mm": part.focus_mm,
    }  # fmt: skip
    if part.kind in ("hatch", "score", "cut"):
        values["kind"] = part.kind
    if part.kind == "hatch":
        values |= {"spacing_mm": part.pitch_mm, "hatch_deg": part.angle_deg}
        values["cross"] = part.cross
    return values


def fitting_recipes(job: Job, kinds: list[str]) -> Any:
    """Return the recipes of some kinds for a job's machine and substrate."""
    return Recipe.objects.filter(
        machine=job.machine, substrate=job.substrate, part__kind__in=kinds
    )


def _at(spec: JobSpec, at: int) -> OperationPart:
    if not 0 <= at < len(spec.operations):
        raise InputError("This operation is not on the list any more.")
    return spec.operations[at]


def _parts(spec: JobSpec) -> list[dict[str, Any]]:
    return [one.model_dump(mode="json") for one in spec.operations]


def _keep(job: Job, spec: JobSpec, parts: list[dict[str, Any]], label: str) -> None:
    try:
        change(job, updated(spec, {"operations": parts}), label[:120])
    except InputError as error:
        raise InputError(error.message) from None


# Files


def outline_file(spec: JobSpec, kind: str) -> bytes:
    """Return all included outlines as they lie on the bed, as SVG or DXF.

    Raises
    ------
    InputError
        When there are none.
    """
    layers: dict[str, list[NDArray[np.float64]]] = {}
    middle = piece_box(spec.size, spec.place).middle
    for at, one in enumerate(spec.operations):
        if not one.on or one.kind == "raster":
            continue
        name = f"{at + 1}-{one.kind}"
        layers[name] = [
            turned_points(path, middle, spec.place.turn_deg)
            for path in pipeline().followed(spec, one).paths
        ]
    if not any(layers.values()):
        raise InputError("There are no outlines: add a cut, a score or a hatch first.")
    return write_dxf(layers) if kind == "dxf" else write_svg(layers).encode()
