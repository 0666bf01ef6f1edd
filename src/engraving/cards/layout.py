"""Where everything lies on a swatch card, and what each cell burns with.

Lengths are mm from the card's lower left corner, y away from the operator.
Corner marks stand in the corners; rows are labelled at the left, columns
below, the title runs between the upper marks.
"""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Any

from engraving.jobspec import MOST_PASSES, CardPart, JobSpec, MachinePart, RecipePart
from engraving.lettering import Polyline, stroke_length_mm, stroke_text
from engraving.recipe.dose import row_top_speed, watts
from engraving.units import dpi_to_pitch

MARK_MM = 7.2
"""Side of a corner mark: six by six modules."""
BAND_MM = MARK_MM + 2.4
_CAP_MM = 1.9
_LEAST_CAP_MM = 1.2
_TITLE_MM = 2.4
_LINE_GAP_MM = 1.0
_WIDEST_WORDS_MM = 60.0

_Range = tuple[float, float, int, str]
"""First, last, how many, and how they are spaced."""


@dataclass(frozen=True)
class KindOfCard:
    """A kind of card: its name, what it finds, and what runs along its sides.

    Attributes
    ----------
    columns, rows : str
        What the axes hold; empty where there is none.
    touches : bool
        Whether a tool cuts it; a beam burns the others.
    """

    label: str
    finds: str
    columns: str
    rows: str
    touches: bool = False


KINDS: Mapping[str, KindOfCard] = MappingProxyType(
    {
        "power-speed": KindOfCard(
            "Power and speed", "the settings that mark best", "Power, %", "Speed, mm/s"
        ),
        "power-pitch": KindOfCard(
            "Power and row pitch", "how close rows should lie", "Power, %", "Row pitch, mm"
        ),
        "speed-pitch": KindOfCard(
            "Speed and row pitch", "how fast finer rows may run",
            "Speed, mm/s", "Row pitch, mm",
        ),
        "gray-ramp": KindOfCard(
            "Gray ramp", "the tone curve of a recipe", "Burned share, %", "Repeats"
        ),
        "dot-methods": KindOfCard(
            "Dot methods", "which dots look best", "Method", "Burned share, %"
        ),
        "dpi-ladder": KindOfCard(
            "Resolutions", "the finest rows that still show", "dpi", "Burned share, %"
        ),
        "focus": KindOfCard(
            "Focus", "the focus and the spot", "Power, %", "Focus height, mm"
        ),
        "row-shift": KindOfCard(
            "Return-row shift", "how far return rows are off",
            "Shift tried, mm", "Speed, mm/s",
        ),
        "roller": KindOfCard(
            "Roller or chuck check", "whether a length comes out true", "Length, mm", ""
        ),
        "depth": KindOfCard(
            "Depth wells", "what a pass of a relief takes away", "Power, %", "Passes"
        ),
        "lines": KindOfCard(
            "Lines of a tool", "how wide a V-tool or a point marks",
            "Depth, mm", "Feed, mm/s", touches=True,
        ),
    }
)  # fmt: skip
"""Every kind of card by name."""


@dataclass(frozen=True)
class Cell:
    """One patch of a card.

    Attributes
    ----------
    column, row : int
        Row 0 is the lowest.
    x_mm, y_mm, width_mm, height_mm : float
        Its box.
    speed_mm_s, power, pitch_mm : float
        What it burns with.
    share : float
        Burned share asked of the dot method, 0..1; 1 is solid.
    method : str
        Dot method, empty for the job's.
    z_mm : float
        Height of the focus above the surface.
    shift_mm : float
        Return rows are moved so far, on a shift card.
    passes : int
        On a depth card; 0 is as often as the job says.
    depth_mm : float
        How deep a tool goes.
    """

    column: int
    row: int
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    speed_mm_s: float
    power: float
    pitch_mm: float
    share: float = 1.0
    method: str = ""
    z_mm: float = 0.0
    shift_mm: float = 0.0
    passes: int = 0
    depth_mm: float = 0.0

    @property
    def middle(self) -> tuple[float, float]:
        """The middle of its box."""
        return self.x_mm + self.width_mm / 2, self.y_mm + self.height_mm / 2


@dataclass(frozen=True)
class Letters:
    """A line of text: where its baseline begins, and whether it reads upward."""

    text: str
    cap_mm: float
    x_mm: float
    y_mm: float
    turned: bool = False


def written(letters: Letters) -> list[Polyline]:
    """Return the strokes of a line of text on a card."""
    return stroke_text(
        letters.text, letters.cap_mm, letters.x_mm, letters.y_mm, turned=letters.turned
    )


@dataclass(frozen=True)
class Layout:
    """A card laid out.

    Attributes
    ----------
    marks : tuple of (float, float)
        Lower left corners of the corner marks: front left, front right, back
        left, back right.
    """

    width_mm: float
    height_mm: float
    columns: int
    rows: int
    cells: tuple[Cell, ...]
    letters: tuple[Letters, ...]
    marks: tuple[tuple[float, float], ...]
    column_texts: tuple[str, ...]
    row_texts: tuple[str, ...]

    def cell(self, column: int, row: int) -> Cell:
        """Return the cell of a column and a row, row 0 lowest."""
        return self.cells[row * self.columns + column]


def lay_out(spec: JobSpec) -> Layout:
    """Return the layout of a job's card.

    Raises
    ------
    ValueError
        When the job burns no card.
    """
    card = spec.card
    if card is None:
        raise ValueError("this job burns no card")
    column_texts, row_texts = _texts(card)
    columns, rows = len(column_texts), len(row_texts)
    wide, high = _cell_size(card)
    foot = _foot(card, column_texts)
    inner_w = columns * wide + (columns - 1) * card.gap_mm
    inner_h = rows * high + (rows - 1) * card.gap_mm
    inner_w = max(inner_w, _title_width(spec) - 2 * BAND_MM + 2 * MARK_MM)
    width, height = inner_w + 2 * BAND_MM, inner_h + BAND_MM + foot
    cells = tuple(
        _set(spec, card, Cell(
            column, row,
            BAND_MM + column * (wide + card.gap_mm), foot + row * (high + card.gap_mm),
            wide, high, spec.burn.speed_mm_s, spec.burn.power, spec.size.pitch_mm,
        ))
        for row in range(rows)
        for column in range(columns)
    )  # fmt: skip
    far_x, far_y = width - MARK_MM, height - MARK_MM
    layout = Layout(
        width, height, columns, rows, cells, (),
        ((0.0, 0.0), (far_x, 0.0), (0.0, far_y), (far_x, far_y)),
        column_texts, row_texts,
    )  # fmt: skip
    return replace(layout, letters=tuple(_letters(spec, card, layout, foot)))


def _cell_size(card: CardPart) -> tuple[float, float]:
    if card.kind == "roller":
        return card.columns.last, card.columns.last
    if card.kind == "focus":
        return card.cell_mm, max(card.cell_mm / 4, 1.6)
    if card.kind == "lines":
        return card.cell_mm, card.cell_mm / 2
    return card.cell_mm, card.cell_mm


def _texts(card: CardPart) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Return what is written at each column and each row, lowest first."""
    if card.kind == "roller":
        return (f"{card.columns.last:g} mm",), ("",)
    columns = tuple(f"{value:g}" for value in card.columns.values)
    rows = tuple(f"{value:g}" for value in card.rows.values)
    if card.kind == "dot-methods":
        columns = card.methods or ("floyd-steinberg",)
    if card.kind == "gray-ramp":
        rows = tuple(str(i + 1) for i in range(card.rows.count))
    return columns, rows


def _foot(card: CardPart, texts: tuple[str, ...]) -> float:
    """Return the height of the band below the cells."""
    if card.kind != "dot-methods":
        return BAND_MM
    longest = max(stroke_length_mm(text, _CAP_MM) for text in texts)
    return max(BAND_MM, longest + card.gap_mm + 2)


_READS: Mapping[str, Any] = MappingProxyType(
    {
        "power-speed": lambda _s, _c, x, y: {"power": x, "speed_mm_s": y},
        "power-pitch": lambda _s, _c, x, y: {"power": x, "pitch_mm": y},
        "speed-pitch": lambda _s, _c, x, y: {"speed_mm_s": x, "pitch_mm": y},
        "gray-ramp": lambda _s, _c, x, _y: {"share": x / 100},
        "dpi-ladder": lambda s, _c, x, y: {**_even(s, dpi_to_pitch(x)), "share": y / 100},
        "focus": lambda _s, _c, x, y: {"power": x, "z_mm": y},
        "row-shift": lambda _s, _c, x, y: {"shift_mm": x, "speed_mm_s": y},
        "depth": lambda _s, _c, x, y: {"power": x, "passes": max(round(y), 1)},
        "lines": lambda _s, _c, x, y: {"depth_mm": x, "speed_mm_s": y},
    }
)
"""What the values at a column and a row set."""


def _set(spec: JobSpec, card: CardPart, cell: Cell) -> Cell:
    """Return a cell with what its column and row say."""
    if card.kind == "roller":
        return cell
    if card.kind == "dot-methods":
        methods = card.methods or ("floyd-steinberg",)
        share = card.rows.values[cell.row] / 100
        return replace(cell, method=methods[cell.column], share=share)
    x = card.columns.values[cell.column]
    y = 0.0 if card.kind == "gray-ramp" else card.rows.values[cell.row]
    return replace(cell, **_READS[card.kind](spec, card, x, y))


def _even(spec: JobSpec, pitch_mm: float) -> dict[str, float]:
    """Return pitch, and the speed that keeps the dose, or the power at the fastest."""
    speed = spec.burn.speed_mm_s * spec.size.pitch_mm / pitch_mm
    most = row_top_speed(spec)
    if speed <= most:
        return {"pitch_mm": pitch_mm, "speed_mm_s": speed}
    return {
        "pitch_mm": pitch_mm,
        "speed_mm_s": most,
        "power": spec.burn.power * most / speed,
    }


def _title(spec: JobSpec, card: CardPart) -> tuple[str, str]:
    """Return the card's two lines: what it is, and what it was burned with."""
    base = spec.burn
    title = card.title or KINDS[card.kind].label
    recipe = f"{base.recipe} v{base.recipe_version}" if base.recipe else ""
    fixed = {
        "power-speed": f"{spec.size.pitch_mm:g} mm rows",
        "power-pitch": f"{base.speed_mm_s:g} mm/s",
        "speed-pitch": f"{base.power:g} %",
        "lines": spec.marking.carving.tool.name if spec.machine.kind == "vtool" else "",
    }.get(card.kind, f"{base.power:g} %, {base.speed_mm_s:g} mm/s")
    said = (card.day, spec.machine.name, fixed, recipe)
    return f"{title}, {spec.substrate.name}", ", ".join(part for part in said if part)


def _title_width(spec: JobSpec) -> float:
    """Return how wide the card must be for its words to stand between the marks."""
    if spec.card is None:
        return 0.0
    longest = max(stroke_length_mm(text, _LEAST_CAP_MM) for text in _title(spec, spec.card))
    return min(longest, _WIDEST_WORDS_MM) + 1.0


def _letters(
    spec: JobSpec, card: CardPart, layout: Layout, foot: float
) -> Iterator[Letters]:
    room = layout.width_mm - 2 * BAND_MM + 2
    top = layout.height_mm - 0.4
    title, said = _title(spec, card)
    yield _fitted(title, _TITLE_MM, room, BAND_MM - 1, top - _TITLE_MM)
    yield _fitted(
        said, _CAP_MM, room, BAND_MM - 1, top - _TITLE_MM - _CAP_MM - _LINE_GAP_MM
    )
    axes = KINDS[card.kind]
    clear = card.gap_mm / 2 + 0.8
    yield from _below(layout, card, foot - clear)
    if card.kind != "dot-methods":
        yield _fitted(axes.columns, _CAP_MM, room, BAND_MM - 1, 0.4)
    for row, text in enumerate(layout.row_texts):
        cell = layout.cell(0, row)
        cap = min(_CAP_MM, cell.height_mm)
        room_left = BAND_MM - clear - 0.2
        long = stroke_length_mm(text, cap)
        cap = cap if long <= room_left else max(cap * room_left / long, _LEAST_CAP_MM)
        long = stroke_length_mm(text, cap)
        yield Letters(text, cap, BAND_MM - clear - long, cell.middle[1] - cap / 2)
    if axes.rows:
        x = layout.width_mm - BAND_MM + clear + _CAP_MM
        high = layout.height_mm - 2 * BAND_MM + 2
        turned = _fitted(axes.rows, _CAP_MM, high, x, foot)
        yield replace(turned, turned=True)


def _below(layout: Layout, card: CardPart, y: float) -> Iterator[Letters]:
    """Yield the columns' texts, their upper edge at y."""
    for column, text in enumerate(layout.column_texts):
        cell = layout.cell(column, 0)
        if card.kind == "dot-methods":
            long = stroke_length_mm(text, _CAP_MM)
            yield Letters(
                text, _CAP_MM, cell.middle[0] + _CAP_MM / 2, y - long, turned=True
            )
            continue
        room = cell.width_mm + card.gap_mm - 0.8
        fitted = _fitted(text, _CAP_MM, room, 0, 0)
        x = cell.middle[0] - stroke_length_mm(text, fitted.cap_mm) / 2
        yield replace(fitted, x_mm=x, y_mm=y - fitted.cap_mm)


def _fitted(text: str, cap_mm: float, room_mm: float, x_mm: float, y_mm: float) -> Letters:
    """Return text at most so long: smaller first, then cut."""
    long = stroke_length_mm(text, cap_mm)
    if long > room_mm:
        cap_mm = max(cap_mm * room_mm / long, _LEAST_CAP_MM)
        while text and stroke_length_mm(text, cap_mm) > room_mm:
            text = text[:-1]
    return Letters(text, cap_mm, x_mm, y_mm)


def card_job(spec: JobSpec) -> JobSpec:
    """Return a card's job with its size, and its strongest setting as its own.

    The job's power, speed and pitch are the strongest on the card, so that
    what is drawn of it never exceeds a full mark.
    """
    if spec.card is None:
        return spec
    data = spec.model_dump(mode="json")
    columns, rows, kind = spec.card.columns, spec.card.rows, spec.card.kind
    by_kind: dict[str, dict[str, tuple[str, float]]] = {
        "power-speed": {"power": ("burn", max(columns.values)),
                        "speed_mm_s": ("burn", min(rows.values))},
        "power-pitch": {"power": ("burn", max(columns.values)),
                        "pitch_mm": ("size", min(rows.values))},
        "speed-pitch": {"speed_mm_s": ("burn", min(columns.values)),
                        "pitch_mm": ("size", min(rows.values))},
        "focus": {"power": ("burn", max(columns.values))},
        "row-shift": {"speed_mm_s": ("burn", min(rows.values))},
        "lines": {"speed_mm_s": ("burn", min(rows.values))},
        "depth": {"power": ("burn", max(columns.values)),
                  "passes": ("burn", min(max(round(max(rows.values)), 1), MOST_PASSES))},
    }  # fmt: skip
    for name, (part, value) in by_kind.get(kind, {}).items():
        data[part][name] = value
    data["size"] |= {"fit": "exact", "lock_ratio": False, "dot_pitch_mm": None}
    data["burn"] |= {"rows": "x", "cross": False}
    made = JobSpec.model_validate(data)
    layout = lay_out(made)
    data["size"] |= {"width_mm": layout.width_mm, "height_mm": layout.height_mm}
    return JobSpec.model_validate(data)


def _depths(machine: MachinePart) -> _Range:
    """Return depths of lines: of a V-tool five, of a point about the one it is set to."""
    if machine.kind == "vtool":
        return 0.2, 1.4, 5, "steps"
    return machine.depth_mm / 2, machine.depth_mm * 2, 3, "times"


def starting_card(
    kind: str, machine: MachinePart, recipe: RecipePart | None = None
) -> CardPart:
    """Return a card of a kind with ranges that suit a machine, or lie round a recipe."""
    least = max(machine.lowest_power, 5.0)
    most = machine.max_speed_mm_s
    speed = recipe.speed_mm_s if recipe else most / 3
    power = recipe.power if recipe else 40.0
    spot = machine.spot_mm
    powers, speeds = (least, 100, 6, "times"), (max(most / 20, 2), most * 0.8, 6, "times")
    pitches, shares = (0.7 * spot, 2 * spot, 5, "steps"), (25, 75, 3, "steps")
    dpis = (25.4 / (2 * spot), 25.4 / (0.7 * spot), 6, "steps")
    lines = (max(power / 4, least), min(power * 2, 100), 5, "times")
    none = (0, 1, 1, "steps")
    ranges: dict[str, tuple[_Range, _Range]] = {
        "power-speed": (powers, speeds),
        "power-pitch": (powers, pitches),
        "speed-pitch": (speeds, pitches),
        "gray-ramp": ((0, 100, 11, "steps"), (1, 2, 2, "steps")),
        "dot-methods": (none, shares),
        "dpi-ladder": (dpis, shares),
        "focus": (lines, (-3, 3, 13, "steps")),
        "row-shift": ((-0.2, 0.2, 5, "steps"), (most / 5, most * 0.8, 4, "steps")),
        "roller": ((0, 50, 1, "steps"), none),
        "depth": (lines, (2, 8, 4, "steps")),
        "lines": (_depths(machine), (most / 4, most * 0.8, 3, "times")),
    }
    columns, rows = (
        {"first": _round(a), "last": _round(b), "count": n, "even": even}
        for a, b, n, even in ranges[kind]
    )
    methods = ("floyd-steinberg", "jarvis", "atkinson", "blue-noise", "round", "line")
    return CardPart.model_validate(
        {
            "kind": kind,
            "columns": columns,
            "rows": rows,
            "methods": methods if kind == "dot-methods" else (),
            **({"cell_mm": 10.0} if KINDS[kind].touches else {}),
            "label_speed_mm_s": round(min(speed, most / 3), 1),
            "label_power": round(min(max(power, least), 100.0), 1),
        }
    )


def _round(value: float) -> float:
    """Return a value to two significant digits, as one would type it."""
    if value == 0:
        return 0.0
    return round(value, 1 - math.floor(math.log10(abs(value))))


def dose_of(cell: Cell, machine: MachinePart, passes: int) -> float:
    """Return the areal dose of a cell's solid in J/mm²."""
    power_w = watts(cell.power, machine.rated_power_w)
    return power_w * (cell.passes or passes) / (cell.speed_mm_s * cell.pitch_mm)
