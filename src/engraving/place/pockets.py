"""Where the pockets of a fixture lie, their order, and what each burns."""

import math
import re
from collections.abc import Sequence
from functools import lru_cache, reduce
from itertools import combinations

import numpy as np

from engraving.jobspec import ArtworkPart, Crop, FixturePart, JobSpec
from engraving.place.bed import Box, anchor_point, piece_box, reach_box
from engraving.place.frame import frame_of
from engraving.place.mount import mounted

_PLACEHOLDER = re.compile(r"\{(n|[1-9])\}")


def pocket_offset(spec: JobSpec, index: int) -> tuple[float, float]:
    """Return where a pocket lies from the first, in mm, x to the right and y away."""
    fixture = spec.fixture or FixturePart()
    pocket = fixture.pocket(index)
    row, column = divmod(index, fixture.columns)
    across = column * (spec.blank.width_mm + fixture.gap_x_mm)
    up = row * (spec.blank.height_mm + fixture.gap_y_mm)
    return (
        across if pocket.x_mm is None else pocket.x_mm,
        up if pocket.y_mm is None else pocket.y_mm,
    )


def burning_order(spec: JobSpec) -> list[int]:
    """Return the pockets of a job's fixture that are on, in the order they are burned.

    Without a fixture there is one piece, and no pocket.
    """
    fixture = spec.fixture
    if fixture is None:
        return []
    on = [index for index in _walk(fixture) if fixture.pocket(index).on]
    if fixture.order != "near" or len(on) < 3:
        return on
    return [on[at] for at in _short_way(tuple(pocket_offset(spec, index) for index in on))]


def _walk(fixture: FixturePart) -> list[int]:
    columns, rows = fixture.columns, fixture.rows
    if fixture.order == "columns":
        return [
            row * columns + column
            for column in range(columns)
            for row in (range(rows) if column % 2 == 0 else reversed(range(rows)))
        ]
    turn = fixture.order != "rows"
    return [
        row * columns + (columns - 1 - column if turn and row % 2 else column)
        for row in range(rows)
        for column in range(columns)
    ]


@lru_cache(maxsize=32)
def _short_way(places: tuple[tuple[float, float], ...]) -> tuple[int, ...]:
    """Return an order of places that makes a short way from the first on.

    To the nearest that is left, or as they come where that is shorter; then
    parts turned round while that shortens the way (2-opt; Croes 1958,
    Operations Research 6:791-812, from memory).
    """
    points = np.array(places)
    apart = np.hypot(*(points[:, None] - points[None]).transpose(2, 0, 1))
    way, left = [0], set(range(1, len(points)))
    while left:
        way.append(min(left, key=lambda at: (apart[way[-1], at], at)))
        left.discard(way[-1])
    plain = list(range(len(points)))
    way = min(plain, way, key=lambda one: apart[one[:-1], one[1:]].sum())
    shorter = True
    while shorter:
        shorter = False
        for i, j in combinations(range(1, len(way)), 2):
            after = way[j + 1] if j + 1 < len(way) else None
            now = apart[way[i - 1], way[i]]
            then = apart[way[i - 1], way[j]]
            if after is not None:
                now, then = now + apart[way[j], after], then + apart[way[i], after]
            if then < now - 1e-9:
                way[i : j + 1] = way[i : j + 1][::-1]
                shorter = True
    return tuple(way)


def pieces(spec: JobSpec) -> list[JobSpec]:
    """Return the jobs of all pieces that are burned, in their order."""
    if spec.fixture is None:
        return [spec]
    return [piece_at(spec, index, at) for at, index in enumerate(burning_order(spec))]


def touched_off_at(spec: JobSpec) -> tuple[float, float]:
    """Return where on the bed a tool is touched off: the middle of the first picture.

    Mm from the front left corner. Heights of the bed count from there, for every pocket
    of a fixture.
    """
    x, y = piece_box(spec.size, spec.place).middle
    order = burning_order(spec)
    across, up = pocket_offset(spec, order[0]) if order else (0.0, 0.0)
    return x + across, y + up


def shown_piece(spec: JobSpec) -> JobSpec:
    """Return the job of the piece that is looked at."""
    if spec.fixture is None:
        return spec
    return piece_at(spec, min(spec.fixture.shown, spec.fixture.count - 1))


def piece_at(spec: JobSpec, index: int, at: int | None = None) -> JobSpec:
    """Return the job that one pocket burns, at its place.

    Parameters
    ----------
    at : int, optional
        Which in burning order it is; looked up where it is not given.
    """
    fixture = spec.fixture
    if fixture is None:
        return spec
    x, y = pocket_offset(spec, index)
    pocket = fixture.pocket(index)
    turn = math.remainder(spec.place.turn_deg + pocket.turn_deg, 360)
    place = {"x_mm": spec.place.x_mm + x, "y_mm": spec.place.y_mm + y, "turn_deg": turn}
    changes: dict[str, object] = {
        "fixture": None,
        "place": spec.place.model_copy(update=place),
        "lettering": _lettered(spec, index, at),
    }
    if fixture.picture == "own" and pocket.artwork is not None:
        changes["artwork"] = pocket.artwork
    if fixture.picture == "own" and pocket.tone is not None:
        changes["tone"] = pocket.tone
    if fixture.picture == "across":
        changes["artwork"] = _cut(spec, index)
    return spec.model_copy(update=changes)


def _lettered(spec: JobSpec, index: int, at: int | None) -> object:
    """Return the lettering with the pocket's number and words in it."""
    fixture = spec.fixture
    if fixture is None or not spec.lettering.lines:
        return spec.lettering
    if at is None:
        order = burning_order(spec)
        at = order.index(index) if index in order else 0
    number = fixture.first_number + at
    words: Sequence[str] = fixture.pocket(index).words

    def put(match: re.Match[str]) -> str:
        if match[1] == "n":
            return f"{number:0{fixture.digits}d}"
        column = int(match[1]) - 1
        return words[column] if column < len(words) else ""

    lines = tuple(
        line.model_copy(update={"text": _PLACEHOLDER.sub(put, line.text)})
        for line in spec.lettering.lines
    )
    kept = tuple(line for line in lines if line.text.strip())
    return spec.lettering.model_copy(update={"lines": kept})


def _cut(spec: JobSpec, index: int) -> ArtworkPart:
    """Return the part of the one picture that lies on a pocket's blank.

    Over all pockets the picture is as wide as their engraved parts, and where
    the gaps hide some of it, as these and the way from one to the next.
    """
    fixture = spec.fixture or FixturePart()
    crop = spec.artwork.crop
    row, column = divmod(index, fixture.columns)
    left, wide = _share(
        column, fixture.columns, spec.size.width_mm, spec.blank.width_mm + fixture.gap_x_mm,
        hidden=fixture.gap == "hidden",
    )  # fmt: skip
    low, high = _share(
        row, fixture.rows, spec.size.height_mm, spec.blank.height_mm + fixture.gap_y_mm,
        hidden=fixture.gap == "hidden",
    )  # fmt: skip
    part = Crop(
        left=crop.left + left * crop.width,
        top=crop.top + (1 - low - high) * crop.height,
        width=wide * crop.width,
        height=high * crop.height,
    )
    return spec.artwork.model_copy(update={"crop": part})


def _share(
    at: int, count: int, size_mm: float, apart_mm: float, *, hidden: bool
) -> tuple[float, float]:
    """Return where a pocket's part begins and how long it is, as shares of the picture."""
    if not hidden:
        return at / count, 1 / count
    whole = (count - 1) * apart_mm + size_mm
    return at * apart_mm / whole, size_mm / whole


def across_ratio(spec: JobSpec) -> float:
    """Return width over height of the whole picture that lies across the pockets."""
    fixture = spec.fixture or FixturePart()
    if fixture.gap == "skipped":
        return (fixture.columns * spec.size.width_mm) / (fixture.rows * spec.size.height_mm)
    wide = (fixture.columns - 1) * (spec.blank.width_mm + fixture.gap_x_mm)
    high = (fixture.rows - 1) * (spec.blank.height_mm + fixture.gap_y_mm)
    return (wide + spec.size.width_mm) / (high + spec.size.height_mm)


def job_zero(spec: JobSpec) -> tuple[float, float]:
    """Return the machine's coordinates of the point that is written as 0, 0."""
    if spec.place.zero != "head":
        return 0.0, 0.0
    x, y = anchor_point(burned_box(spec), spec.place.anchor)
    return frame_of(spec.machine).to_machine(x, y)


def burned_box(spec: JobSpec, along_mm: float = 0.0, up_mm: float = 0.0) -> Box:
    """Return the box of all pieces that are burned, the picture's where there is one.

    What is turned on a rotary takes no room in depth: there it is the wall
    that moves, and it may be run up to speed by as much as is wanted.
    `along_mm` is added at both ends of the rows, `up_mm` before and behind.
    """
    if spec.mount.rotary:
        box = piece_box(mounted(spec).size, spec.place).grown(along_mm)
        return Box(box.left, 0.0, box.right, 0.0)
    boxes = [reach_box(one.size, one.place, along_mm, up_mm) for one in pieces(spec)]
    if not boxes:
        return reach_box(spec.size, spec.place, along_mm, up_mm)
    return reduce(Box.around, boxes)
