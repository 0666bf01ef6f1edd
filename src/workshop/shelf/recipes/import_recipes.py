"""Recipes in and out as CSV and JSON: looked at first, taken in whole or not at all."""

import hashlib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction

from engraving.errors import InputError
from engraving.jobspec import RecipePart
from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shelf.recipes.changes import (
    add_version,
    checked_part,
    create_recipe,
    recipe_part,
)
from workshop.shelf.recipes.table import (
    SETTINGS,
    csv_table,
    json_table,
    plain,
    read_rows,
    written,
)

SHOWN_ROWS = 200


@dataclass(frozen=True)
class RowFault:
    """A row that cannot be taken in, and why."""

    row: int
    sentence: str


@dataclass
class Preview:
    """What an import would do.

    Attributes
    ----------
    new, changed : list of (str, str)
        Names, and what would change.
    same : int
        Rows that say what the shelf says.
    faults : list of RowFault
        With any of these nothing is taken in.
    """

    new: list[tuple[str, str]] = field(default_factory=list)
    changed: list[tuple[str, str]] = field(default_factory=list)
    same: int = 0
    faults: list[RowFault] = field(default_factory=list)
    rows: int = 0

    @property
    def can_go(self) -> bool:
        """Whether the import may be done."""
        return not self.faults and bool(self.new or self.changed)


def _row(recipe: Recipe) -> dict[str, Any]:
    part = recipe_part(recipe).model_dump(mode="json")
    return {
        "name": recipe.name,
        "substrate": recipe.substrate.name,
        "machine": recipe.machine.name,
        **{name: part[name] for name in SETTINGS},
        "favourite": recipe.favourite,
        "note": recipe.note,
    }


def as_json(recipes: Iterable[Recipe]) -> bytes:
    """Return recipes as JSON."""
    return json_table(_row(recipe) for recipe in recipes)


def as_csv(recipes: Iterable[Recipe]) -> bytes:
    """Return recipes as CSV."""
    return csv_table(_row(recipe) for recipe in recipes)


_Key = tuple[int, int, str]
"""Machine, substrate and name of a recipe."""


@dataclass(frozen=True)
class _Wanted:
    """A row that can be taken in."""

    name: str
    machine: Machine
    substrate: Substrate
    part: RecipePart
    favourite: bool
    note: str
    known: Recipe | None


def _wanted(rows: list[dict[str, Any]], faults: list[RowFault]) -> Iterator[_Wanted]:
    machines = {one.name: one for one in Machine.objects.all()}
    substrates = {one.name: one for one in Substrate.objects.all()}
    known = {
        (one.machine_id, one.substrate_id, one.name): one
        for one in Recipe.objects.with_all()
    }
    seen: dict[_Key, int] = {}
    for number, row in enumerate(rows, start=2):
        try:
            values = plain(row)
            key, machine, substrate = _place(values, machines, substrates)
            _once(seen, key, number)
            before = known.get(key)
            base = dict(before.part) if before else {}
            told = {name: values[name] for name in SETTINGS if name in values}
            part = checked_part({**base, **told})
        except InputError as error:
            faults.append(RowFault(number, _with_column(error)))
            continue
        kept = (before.favourite, before.note) if before else (False, "")
        favourite = bool(values.get("favourite", kept[0]))
        note = str(values.get("note", kept[1]))[:2000]
        yield _Wanted(key[2], machine, substrate, part, favourite, note, before)


def _place(
    values: Mapping[str, Any],
    machines: dict[str, Machine],
    substrates: dict[str, Substrate],
) -> tuple[_Key, Machine, Substrate]:
    """Return where on the shelf a row belongs."""
    machine = _found(machines, "machine", values)
    substrate = _found(substrates, "substrate", values)
    name = " ".join(str(values.get("name", "")).split())[:100]
    if not name:
        raise InputError("name: a recipe needs one.")
    return (machine.pk, substrate.pk, name), machine, substrate


def _once(seen: dict[_Key, int], key: _Key, number: int) -> None:
    if key in seen:
        raise InputError(f"name: the same recipe stands in row {seen[key]}.")
    seen[key] = number


def _with_column(error: InputError) -> str:
    field_, message = error.field, error.message
    return f"{field_}: {message}" if field_ and not message.startswith(field_) else message


def _found(items: dict[str, Any], what: str, values: Mapping[str, Any]) -> Any:
    name = str(values.get(what, ""))
    if name not in items:
        raise InputError(f"{what}: there is no “{name[:60]}” on the shelf.")
    return items[name]


def preview(rows: list[dict[str, Any]]) -> Preview:
    """Return what an import would do; nothing is written."""
    found = Preview(rows=len(rows))
    for one in _wanted(rows, found.faults):
        where = f"{one.name}, {one.substrate.name}, {one.machine.name}"
        if one.known is None:
            found.new.append((where, _said(one.part)))
        elif words := _difference(one):
            found.changed.append((where, words))
        else:
            found.same += 1
    return found


def _said(part: RecipePart) -> str:
    return (
        f"{part.power:g} %, {part.speed_mm_s:g} mm/s, {part.pitch_mm:g} mm, {part.passes}×"
    )


def _difference(one: _Wanted) -> str:
    if one.known is None:
        return ""
    before = recipe_part(one.known).model_dump(mode="json")
    after = one.part.model_dump(mode="json")
    words = [
        f"{name} {_short(before[name])} to {_short(after[name])}"
        for name in SETTINGS
        if before[name] != after[name]
    ]
    if one.favourite != one.known.favourite:
        words.append("favourite" if one.favourite else "no favourite")
    if one.note != one.known.note:
        words.append("note")
    return ", ".join(words)


def _short(value: Any) -> str:
    text = written(value) or "nothing"
    return text if len(text) <= 40 else f"{text[:39]}…"


@transaction.atomic
def take_in(rows: list[dict[str, Any]], why: str) -> Preview:
    """Take recipes in, all or none.

    Raises
    ------
    InputError
        When a row is at fault; nothing is written then.
    """
    faults: list[RowFault] = []
    wanted = list(_wanted(rows, faults))
    if faults:
        raise InputError(f"Row {faults[0].row}: {faults[0].sentence}")
    done = Preview(rows=len(rows))
    for one in wanted:
        if one.known is None:
            made = create_recipe(
                one.machine, one.substrate, one.name, one.part, one.note, why
            )
            Recipe.objects.filter(pk=made.pk).update(favourite=one.favourite)
            done.new.append((one.name, ""))
            continue
        changed = add_version(one.known, one.part, why)
        if (one.favourite, one.note) != (one.known.favourite, one.known.note):
            one.known.favourite, one.known.note, changed = one.favourite, one.note, True
            one.known.save()
        if changed:
            done.changed.append((one.name, ""))
        else:
            done.same += 1
    return done


def hold(data: bytes, name: str) -> tuple[str, Preview]:
    """Keep a file that is to be taken in, and return its key and what it would do.

    Raises
    ------
    InputError
        When it cannot be read.
    """
    found = preview(read_rows(data))
    key = hashlib.sha256(data).hexdigest()
    path = _held(key)
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(data)
    path.with_suffix(".name").write_text(name[:200])
    return key, found


def take_in_held(key: str) -> Preview:
    """Take in a file that was held.

    Raises
    ------
    InputError
        When it is not there any more, or a row is at fault.
    """
    path = _held(key)
    if not key.isalnum() or not path.is_file():
        raise InputError("That file is not held any more; choose it again.")
    why = f"Taken in from {path.with_suffix('.name').read_text()}"
    done = take_in(read_rows(path.read_bytes()), why)
    path.unlink()
    return done


def _held(key: str) -> Path:
    return Path(settings.MEDIA_ROOT) / "imports" / f"{key}.table"
