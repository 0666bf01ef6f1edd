"""The lines of a tool's card: their measured widths typed in, and what they come to."""

from collections.abc import Mapping
from dataclasses import dataclass
from statistics import fmean
from typing import Any

from engraving.cards import Cell, Layout, ToolFound, lay_out, line_mm, tool_found
from engraving.errors import ArtworkError, InputError
from engraving.jobspec import JobSpec, RecipePart
from workshop.jobs.cards.typed import field_of, shown, typed_cells
from workshop.jobs.models import CardReading, Job
from workshop.jobs.revisions.writer import spec_of
from workshop.shell.services import shown_length

_LEAST_MM = 0.001


@dataclass(frozen=True)
class Line:
    """A line to measure: its cell, its width as it was typed, and as it should be."""

    cell: Cell
    name: str
    width: str
    planned: str


@dataclass(frozen=True)
class LinesPage:
    """The lines, the lowest row last, and the tool, or the mark, that they show.

    ``mark_mm`` is the mean width of a point's lines; of a V-tool 0.
    """

    rows: list[list[Line]]
    tool: ToolFound | None
    mark_mm: float
    said: str


def lines_page(
    spec: JobSpec, layout: Layout, result: Mapping[str, Any], sent: Mapping[str, str]
) -> LinesPage:
    """Return what the page of a card of lines shows; what was refused, as typed."""
    typed = {(column, row): mm for column, row, mm in result.get("lines", [])}
    rows = [
        [
            _line(spec, layout.cell(column, row), typed.get((column, row)), sent)
            for column in range(layout.columns)
        ]
        for row in reversed(range(layout.rows))
    ]
    if not typed:
        return LinesPage(rows, None, 0.0, "")
    if spec.machine.kind != "vtool":
        return LinesPage(rows, None, mark_mm(result), "")
    try:
        return LinesPage(rows, _tool(layout, result), 0.0, "")
    except ArtworkError as error:
        return LinesPage(rows, None, 0.0, error.message)


def mark_mm(result: Mapping[str, Any]) -> float:
    """Return how wide a point's lines were measured on the average."""
    return fmean(mm for _, _, mm in result["lines"])


def _line(spec: JobSpec, cell: Cell, typed: float | None, sent: Mapping[str, str]) -> Line:
    planned = f"{shown_length(line_mm(spec, cell.depth_mm)):.3g}"
    name = field_of("line", cell)
    return Line(cell, name, sent.get(name, shown(typed)), planned)


def _tool(layout: Layout, result: Mapping[str, Any]) -> ToolFound:
    return tool_found(
        (layout.cell(column, row).depth_mm, mm) for column, row, mm in result["lines"]
    )


def note_lines(job: Job, sent: Mapping[str, str]) -> None:
    """Keep the widths that were typed; what is empty was not measured.

    Raises
    ------
    InputError
        When there is none, or one is no width.
    """
    lines = typed_cells(
        "line",
        lay_out(spec_of(job)).cells,
        sent,
        lambda cell: (
            f"The line {cell.depth_mm:g} mm deep at {cell.speed_mm_s:g} mm/s needs a width"
        ),
        least_mm=_LEAST_MM,
    )
    if not lines:
        raise InputError("Type the width of one line at least.")
    CardReading.objects.create(
        job=job, spec=job.spec_data, photo="", result={"lines": lines}
    )


def part_of(
    spec: JobSpec, burned: RecipePart, layout: Layout, result: Mapping[str, Any]
) -> RecipePart:
    """Return a recipe of the tool as it was measured.

    Raises
    ------
    InputError
        When it is no V-tool.
    ArtworkError
        When no cone cuts such lines.
    """
    if spec.machine.kind != "vtool":
        raise InputError("What a point's lines say is kept for its machine.")
    found, before = _tool(layout, result), spec.marking.carving.tool
    measured = {"angle_deg": round(found.angle_deg, 2), "tip_mm": round(found.tip_mm, 3)}
    return burned.model_copy(update={"tool": before.model_copy(update=measured)})
