"""Recipes every machine begins with: settings nobody has burned, carried over by dose.

The numbers are made up, as starting points for the reference machines beside them; a
card turns them into recipes.
"""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

from engraving.jobspec import MachinePart, RecipePart
from engraving.recipe import carry_over
from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shelf.recipes.changes import create_recipe

REFERENCES: Mapping[str, Mapping[str, Any]] = MappingProxyType({
    "co2": {
        "bed_width_mm": 400, "bed_height_mm": 400, "max_speed_mm_s": 500,
        "rapid_mm_s": 500, "acceleration_mm_s2": 5000, "step_mm": 0.01, "rated_power_w": 60,
        "lowest_power": 8, "beam_diameter_mm": 6.0, "lens": "2 inch", "z_axis": True,
        "block_mm": 19, "response_ms": 0.3,
        "lenses": [{"name": "2 inch", "focal_mm": 50.8, "spot_mm": 0.12},
                   {"name": "1.5 inch", "focal_mm": 38.1, "spot_mm": 0.09},
                   {"name": "4 inch", "focal_mm": 101.6, "spot_mm": 0.23}],
    },
    "diode": {
        "kind": "diode", "wavelength_um": 0.45, "bed_width_mm": 300, "bed_height_mm": 200,
        "origin": "back-left", "max_speed_mm_s": 200, "rapid_mm_s": 200,
        "acceleration_mm_s2": 1500, "spot_mm": 0.09, "step_mm": 0.01, "rated_power_w": 10,
        "lowest_power": 2, "beam": "M4",
    },
    "fibre": {
        "kind": "fibre", "wavelength_um": 1.064, "bed_width_mm": 110, "bed_height_mm": 110,
        "max_speed_mm_s": 2000, "rapid_mm_s": 3000, "acceleration_mm_s2": 100000,
        "rated_power_w": 30, "lowest_power": 5, "beam_diameter_mm": 7.0,
        "beam_quality": 1.4, "short_names": True, "file_ending": "nc", "file_mb": 16,
        "look_ahead": 120, "lens": "f 163",
        "lenses": [{"name": "f 163", "focal_mm": 163, "spot_mm": 0.045}],
    },
})  # fmt: skip
"""The machines that the starting recipes are thought for, by kind of beam."""


def _recipe(
    speed: float, power: float, pitch: float, method: str = "floyd-steinberg", **more: Any
) -> dict[str, Any]:
    return {"speed_mm_s": float(speed), "power": float(power), "pitch_mm": pitch,
            "method": method, "origin": "start", "confidence": "tried", **more}  # fmt: skip


_ROWS: tuple[tuple[str, str, str, dict[str, Any]], ...] = (
    ("co2", "Slate", "Slate, pale mark", _recipe(300, 22, 0.12)),
    ("co2", "Beech", "Beech, brown", _recipe(350, 26, 0.12, "jarvis", air=True)),
    ("co2", "Birch plywood", "Birch, brown", _recipe(350, 24, 0.12, "jarvis")),
    ("co2", "Walnut", "Walnut, dark", _recipe(300, 28, 0.12, "stucki", air=True)),
    ("co2", "MDF", "MDF, chocolate", _recipe(350, 25, 0.12, air=True)),
    ("co2", "Veg-tanned leather", "Leather, gentle", _recipe(400, 16, 0.12)),
    ("co2", "Black anodised aluminium", "Anodised, bright", _recipe(400, 30, 0.12)),
    ("co2", "Coated white tile", "Tile, titanium white",
     _recipe(250, 40, 0.12, "stucki", coating="Titanium white, thin and dry")),
    ("co2", "Window glass", "Glass, frosted", _recipe(300, 35, 0.15, "blue-noise")),
    ("co2", "Mirror, from the back", "Mirror, backing off", _recipe(250, 30, 0.12)),
    ("co2", "Cast acrylic", "Acrylic, frosted", _recipe(400, 18, 0.12, "blue-noise")),
    ("co2", "Cork", "Cork, quick", _recipe(400, 14, 0.15, "atkinson")),
    ("co2", "Painted two-colour board", "Two-colour, upper paint off",
     _recipe(350, 20, 0.12)),
    ("co2", "White card", "Card, light brown", _recipe(400, 10, 0.12, "round")),
    ("fibre", "Stainless steel", "Steel, black",
     _recipe(60, 60, 0.045, pulse_khz=80.0, pulse_ns=200.0)),
    ("diode", "Slate", "Slate, slow and pale", _recipe(60, 70, 0.1)),
    ("diode", "Beech", "Beech, fine", _recipe(90, 55, 0.1)),
    ("diode", "Veg-tanned leather", "Leather, fine", _recipe(110, 40, 0.1, "atkinson")),
    ("diode", "Black anodised aluminium", "Anodised, fine", _recipe(80, 80, 0.1)),
    ("diode", "Coated white tile", "Tile, two passes", _recipe(50, 85, 0.1, passes=2)),
    ("co2", "Birch plywood", "Birch, cut through",
     _recipe(12, 85, 0.12, kind="cut", air=True)),
)  # fmt: skip


def put_recipes(machine: Machine) -> list[Recipe]:
    """Put the starting recipes of a machine on the shelf, by its own power and spot.

    There are some for beams; what is cut or scratched begins at its station.
    """
    part = MachinePart.model_validate(machine.part)
    reference = REFERENCES.get(part.kind)
    if reference is None:
        return []
    thought_for = MachinePart.model_validate({"name": machine.name, **reference})
    of = {one.name: one for one in Substrate.objects.all()}
    return [
        create_recipe(machine, of[substrate], name, _for(part, thought_for, values), "", "")
        for kind, substrate, name, values in _ROWS
        if kind == part.kind and substrate in of
    ]


def _for(part: MachinePart, reference: MachinePart, values: dict[str, Any]) -> RecipePart:
    recipe = RecipePart.model_validate(values)
    if (part.rated_power_w, part.spot_mm) == (reference.rated_power_w, reference.spot_mm):
        return recipe
    carried = carry_over(recipe, reference, part).recipe
    return carried.model_copy(update={"origin": "start"})
