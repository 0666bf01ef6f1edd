"""Substrates on the shelf: how they look, answer, and are to be handled."""

from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError

from engraving.errors import InputError
from engraving.jobspec import SubstratePart, explain
from workshop.shelf.models import Substrate

CARE = ("cleaning", "coating", "underlay", "fumes", "eyes")
"""What the plain notes are about."""
_VALUES = (
    "polarity", "ground", "mark", "response", "onset", "scorch_from", "scorch",
    "uneven", "texture", "texture_strength", "clear", "hazard",
    "worked_from",
)  # fmt: skip


def put_substrate(
    name: str, note: str = "", care: Mapping[str, str] | None = None, **values: Any
) -> Substrate:
    """Put a substrate on the shelf, or change the one of that name."""
    part = SubstratePart(name=name, **values).model_dump(mode="json")
    substrate, _ = Substrate.objects.update_or_create(
        name=name, defaults={"part": part, "note": note, "care": dict(care or {})}
    )
    return substrate


def substrate_values(substrate: Substrate | None) -> dict[str, Any]:
    """Return the values of a substrate's form."""
    part = SubstratePart.model_validate(substrate.part) if substrate else SubstratePart()
    shown = {name: getattr(part, name) for name in _VALUES}
    care = substrate.care if substrate else {}
    return {
        **shown,
        "name": substrate.name if substrate else "",
        "note": substrate.note if substrate else "",
        **{name: care.get(name, "") for name in CARE},
    }


def save_substrate(
    data: Mapping[str, Any], substrate: Substrate | None = None
) -> Substrate:
    """Put a new substrate on the shelf, or change one; jobs keep what they used.

    Raises
    ------
    InputError
        When it makes no substrate; ``field`` names the value at fault.
    """
    item = substrate or Substrate()
    values = {name: data[name] for name in _VALUES if data.get(name) is not None}
    part = {**(item.part or {}), **values, "name": data["name"]}
    try:
        item.part = SubstratePart.model_validate(part).model_dump(mode="json")
    except ValidationError as error:
        where = error.errors()[0]["loc"]
        raise InputError(explain(error), field=str(where[0]) if where else "name") from None
    item.name, item.note = data["name"], data.get("note", "")
    item.care = {name: data[name] for name in CARE if data.get(name)}
    item.save()
    return item


def remove_substrate(substrate: Substrate) -> None:
    """Take a substrate and its recipes off the shelf; jobs keep what they used."""
    substrate.delete()
