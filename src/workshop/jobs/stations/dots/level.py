"""The heights of an uneven bed, as they are typed: a line a row, the back row first."""

import math
from typing import Any

from engraving.errors import InputError
from engraving.jobspec import LevelPart
from workshop.jobs.stations.edit import Edit

_NAMES = {"carve_level_x": "x_mm", "carve_level_y": "y_mm"}


def show_level(level: LevelPart | None) -> dict[str, Any]:
    """Return what the fields of the heights show."""
    part = level or LevelPart()
    rows = [" ".join(f"{one:g}" for one in row) for row in reversed(part.heights_mm)]
    return {
        "carve_level": "\n".join(rows),
        "carve_level_x": part.x_mm,
        "carve_level_y": part.y_mm,
        "carve_level_step": part.step_x_mm,
    }


def changed_level(edit: Edit, before: LevelPart | None) -> dict[str, Any] | None:
    """Return the changed heights, empty where there are none left; None if unchanged.

    Raises
    ------
    InputError
        When they are no grid of numbers.
    """
    if not edit.has("carve_level", "carve_level_step", *_NAMES):
        return None
    part = (before or LevelPart()).model_dump(mode="json")
    part |= {own: edit.changes[name] for name, own in _NAMES.items() if edit.has(name)}
    if edit.has("carve_level_step"):
        step = edit.changes["carve_level_step"]
        part |= {"step_x_mm": step, "step_y_mm": step}
    if edit.has("carve_level"):
        part["heights_mm"] = _read(edit.changes["carve_level"])
        if not part["heights_mm"]:
            return {}
    return part


def _read(text: str) -> list[list[float]]:
    """Read heights as they lie on the bed: a line a row, the back row first."""
    rows = [line.replace(";", " ").split() for line in text.splitlines() if line.strip()]
    try:
        found = [[float(one.replace(",", ".")) for one in row] for row in rows]
    except ValueError:
        raise InputError(
            "Type heights in mm as numbers, a line for each row.", field="carve_level"
        ) from None
    if len({len(row) for row in found}) > 1:
        raise InputError(
            "Each row needs as many heights as the others.", field="carve_level"
        )
    if any(not math.isfinite(one) or abs(one) > _MOST_MM for row in found for one in row):
        raise InputError("A bed is no more than 20 mm uneven.", field="carve_level")
    return found[::-1]


_MOST_MM = 20.0
