"""The wells of a depth card: their measured depths typed in, and what they come to."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from engraving.cards import Cell, Layout, WellsFound, lay_out, wells_by_light, wells_found
from engraving.errors import ArtworkError, InputError
from engraving.jobspec import RecipePart
from workshop.jobs.cards.typed import field_of, shown, typed_cells
from workshop.jobs.models import CardReading, Job
from workshop.jobs.revisions.writer import spec_of
from workshop.shell.numbers import whole


@dataclass(frozen=True)
class Well:
    """A well to measure: its cell, its depth as it was typed, and as a photo shows it."""

    cell: Cell
    name: str
    depth: str
    read: str


@dataclass(frozen=True)
class WellsPage:
    """The wells, the deepest row first, and what the powers come to."""

    rows: list[list[Well]]
    found: list[tuple[WellsFound, Cell]]
    said: str


def wells_page(
    layout: Layout, result: Mapping[str, Any], sent: Mapping[str, str]
) -> WellsPage:
    """Return what the page of a depth card shows; what was sent and refused, as typed."""
    typed = _typed(result)
    read, said = _read(result)
    rows = [
        [
            _well(layout.cell(column, row), typed, read, sent)
            for column in range(layout.columns)
        ]
        for row in reversed(range(layout.rows))
    ]
    found = [(one, layout.cell(one.column, 0)) for one in _found(layout, result)]
    return WellsPage(rows, found, said)


def _typed(result: Mapping[str, Any]) -> dict[tuple[int, int], float]:
    return {(column, row): mm for column, row, mm in result.get("wells", [])}


def _read(result: Mapping[str, Any]) -> tuple[dict[tuple[int, int], float], str]:
    """Return what the photo shows of the wells that were not measured, and what is said."""
    seen = {
        (int(column), int(row)): light
        for column, row, light, *_ in result.get("patches", [])
    }
    if not seen:
        return {}, ""
    try:
        found = wells_by_light(_typed(result), seen)
    except ArtworkError as error:
        return {}, error.message
    return found, f"{len(found)} depths are read from the photo, between the measured ones."


def _well(
    cell: Cell,
    typed: Mapping[tuple[int, int], float],
    read: Mapping[tuple[int, int], float],
    sent: Mapping[str, str],
) -> Well:
    at, name = (cell.column, cell.row), field_of("well", cell)
    return Well(cell, name, sent.get(name, shown(typed.get(at))), shown(read.get(at)))


def _found(layout: Layout, result: Mapping[str, Any]) -> list[WellsFound]:
    depths = _read(result)[0] | _typed(result)
    return wells_found(
        (column, layout.cell(column, row).passes, mm)
        for (column, row), mm in depths.items()
    )


def note_wells(job: Job, sent: Mapping[str, str]) -> None:
    """Keep the depths that were typed; what is empty was not measured.

    Raises
    ------
    InputError
        When there is none, or one is no depth.
    """
    wells = typed_cells(
        "well",
        lay_out(spec_of(job)).cells,
        sent,
        lambda cell: (
            f"The well of {cell.power:.3g} % and {cell.passes} passes needs a depth"
        ),
        least_mm=0.0,
    )
    if not wells:
        raise InputError("Type the depth of one well at least.")
    before = job.readings.first() or CardReading(job=job)
    CardReading.objects.create(
        job=job, spec=job.spec_data, photo=before.photo, corners=before.corners,
        fault=before.fault, result={**before.result, "wells": wells},
    )  # fmt: skip


def kept_wells(job: Job) -> dict[str, Any]:
    """Return the depths that were typed before; a new photo leaves them as they are."""
    before = job.readings.first()
    return {"wells": before.result["wells"]} if before and "wells" in before.result else {}


def part_of(
    burned: RecipePart, layout: Layout, result: Mapping[str, Any], chosen: str
) -> RecipePart:
    """Return a recipe of what a pass takes away at the power of a column.

    Raises
    ------
    InputError
        When nothing was measured at that power.
    """
    column = whole(chosen)
    for one in _found(layout, result):
        if one.column == column and one.per_pass_mm > 0:
            cell = layout.cell(one.column, 0)
            return burned.model_copy(
                update={
                    "power": cell.power,
                    "passes": 1,
                    "per_pass_mm": round(one.per_pass_mm, 4),
                }
            )
    raise InputError("Choose a power at which a well was measured.")
