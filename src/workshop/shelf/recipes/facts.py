"""What follows from a recipe, for its page and the list."""

from dataclasses import dataclass
from typing import Any

from engraving.jobspec import MachinePart, RecipePart
from engraving.recipe import (
    Pulses,
    areal_dose_j_mm2,
    line_energy_j_mm,
    pulses,
    setting,
    spot_of,
    watts,
)
from workshop.shelf.models import Machine, Recipe
from workshop.shelf.recipes.changes import BEAM, recipe_part


def history(recipe: Recipe) -> list[dict[str, Any]]:
    """Return a recipe's versions, newest first, with what each changed."""
    versions = list(recipe.versions.all())
    rows = []
    for i, version in enumerate(versions):
        part = RecipePart.model_validate(version.part)
        before = versions[i + 1].part if i + 1 < len(versions) else None
        old = RecipePart.model_validate(before).model_dump() if before else {}
        changed = [
            said_of(name)
            for name, value in part.model_dump().items()
            if before and old[name] != value and name not in BEAM
        ]
        rows.append({"version": version, "part": part, "changed": changed})
    return rows


def said_of(name: str) -> str:
    """Return what a value of a recipe is called: its name without its unit.

    Examples
    --------
    >>> said_of("speed_mm_s")
    'speed'
    """
    for unit in ("_mm_s", "_mm", "_deg", "_khz", "_ns"):
        name = name.removesuffix(unit)
    return name.replace("_", " ")


def recipe_dose(recipe: Recipe) -> float:
    """Return a recipe's dose of solid areas in J/mm²."""
    return setting(
        recipe_part(recipe), MachinePart.model_validate(recipe.machine.part)
    ).dose


@dataclass(frozen=True)
class RecipeFacts:
    """What follows from a recipe's settings on a machine; W, J/mm², J/mm, mm and shares."""

    machine: MachinePart
    watts: float
    dose: float
    line: float
    spot: float
    overlap: float
    too_fast: bool
    pulses: Pulses | None


def recipe_facts(part: RecipePart, machine: Machine) -> RecipeFacts:
    """Return what follows from a recipe's settings on a machine."""
    machine_part = MachinePart.model_validate(machine.part)
    power_w = watts(part.power, machine_part.rated_power_w)
    spot = spot_of(machine_part, part.lens)
    return RecipeFacts(
        machine=machine_part,
        watts=power_w,
        dose=areal_dose_j_mm2(power_w, part.speed_mm_s, part.pitch_mm, part.passes)
        * (2 if part.cross else 1),
        line=line_energy_j_mm(power_w, part.speed_mm_s),
        spot=spot,
        overlap=1 - part.pitch_mm / spot,
        too_fast=part.speed_mm_s > machine_part.max_speed_mm_s,
        pulses=pulses(part.pulse_khz, part.speed_mm_s, spot, power_w)
        if part.pulse_khz
        else None,
    )
