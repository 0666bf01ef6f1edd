"""Measures of a card's cells, as they are typed in."""

from collections.abc import Callable, Iterable, Mapping

from engraving.cards import Cell
from engraving.errors import InputError
from workshop.shell.services import Error, read_length, shown_length

_MOST_MM = 50.0


def field_of(what: str, cell: Cell) -> str:
    """Return the name of a cell's field."""
    return f"{what}-{cell.column}-{cell.row}"


def typed_cells(
    what: str,
    cells: Iterable[Cell],
    sent: Mapping[str, str],
    says: Callable[[Cell], str],
    *,
    least_mm: float,
) -> list[list[float]]:
    """Return column, row and mm of each cell that was measured; empty fields were not.

    Parameters
    ----------
    what : str
        What is measured; the fields are called after it.
    says : callable
        Begins the sentence that refuses what is no length: which cell needs what.
    least_mm : float
        Less than this is none.

    Raises
    ------
    InputError
        When one is no length.
    """
    found = []
    for cell in cells:
        text = sent.get(field_of(what, cell), "").strip()
        if not text:
            continue
        try:
            mm = read_length(text)
        except (Error, ValueError):
            mm = -1.0
        if not least_mm <= mm <= _MOST_MM:
            raise InputError(f"{says(cell)} in mm, not {text[:20]!r}.")
        found.append([cell.column, cell.row, mm])
    return found


def shown(mm: float | None) -> str:
    """Return a measure as its field shows it; empty where there is none."""
    return "" if mm is None else f"{shown_length(mm):.4g}"
