"""The demo's machines, substrates and starting recipes.

Made up for the demo: numbers are starting points that nobody has burned, notes
are what shops tell one another (common practice, no source).
"""

from typing import Any, NamedTuple

from django.conf import settings

from workshop.shelf.machines.changes import put_machine
from workshop.shelf.models import Machine, Substrate
from workshop.shelf.recipes.changes import put_recipe
from workshop.shelf.substrates.changes import put_substrate


class Material(NamedTuple):
    """A substrate: how it looks and answers, and how it is handled."""

    name: str
    note: str
    care: dict[str, str]
    part: dict[str, Any]


def _care(
    cleaning: str = "",
    coating: str = "",
    underlay: str = "",
    fumes: str = "",
    eyes: str = "",
) -> dict[str, str]:
    told = {"cleaning": cleaning, "coating": coating, "underlay": underlay,
            "fumes": fumes, "eyes": eyes}  # fmt: skip
    return {name: text for name, text in told.items() if text}


_WOOD = "Smoke and fine soot: extract, and never leave it alone."
_CLEAR = "A clean sheet that shines and neither burns nor stains, such as foil."

MATERIALS = (
    Material("Slate", "Wipe with a drop of oil afterwards.",
        _care("Brush it out, then wipe damp.", fumes="Stone dust: extract."),
        {"polarity": "lightens", "ground": "#33383c", "mark": "#c3c3bd", "response": 1.9,
         "texture": "slate"}),
    Material("Beech", "Mask it against smoke.",
        _care("Sand lightly, or wipe with spirit.", "Paper tape keeps smoke off.",
              fumes=_WOOD),
        {"ground": "#d8b384", "mark": "#4a2c17", "texture": "wood", "scorch_from": 2.4,
         "uneven": 12}),
    Material("Birch plywood", "Glue lines burn darker; keep off the edges.",
        _care("Wipe with spirit while warm.", "Paper tape keeps smoke off.",
              fumes=f"{_WOOD} Glue adds formaldehyde."),
        {"ground": "#e3c99b", "mark": "#5a371c", "response": 2.1, "texture": "wood",
         "scorch_from": 2.5, "uneven": 18}),
    Material("Walnut", "Dark wood shows little: lift the contrast.",
        _care("Oil it afterwards, the mark deepens.", fumes=_WOOD),
        {"ground": "#6b4a32", "mark": "#1e120b", "response": 2.4, "texture": "wood",
         "uneven": 10}),
    Material("MDF", "Very even; the mark is chocolate brown.",
        _care("Blow the dust off; do not wipe damp.",
              fumes="Resin fumes: extract strongly."),
        {"ground": "#b59468", "mark": "#3a2415", "response": 2.0, "scorch_from": 2.2}),
    Material("Veg-tanned leather", "Low power; it shrinks where it is burned long.",
        _care("Saddle soap, then wax.", "Damp it a little beforehand.",
              fumes="It smells: extract. Never chrome-tanned leather."),
        {"ground": "#b9794a", "mark": "#3a1d10", "response": 2.6, "texture": "leather",
         "texture_strength": 60}),
    Material("Black anodised aluminium", "Degrease first.",
        _care("Wipe with alcohol before and after.", eyes="It reflects: lid closed."),
        {"polarity": "lightens", "ground": "#17181b", "mark": "#d9d7d0", "response": 3.0,
         "texture": "brushed", "texture_strength": 45}),
    Material("Coated white tile", "Coat with titanium white, burn, wash off.",
        _care("Wash the coating off under water.", "Titanium white paint, thin and dry.",
              fumes="Paint fumes: extract."),
        {"ground": "#eeeae2", "mark": "#2b2826", "response": 2.4}),
    Material("Stainless steel", "A fibre beam marks it black, slowly.",
        _care("Degrease before; wipe with alcohol after.",
              eyes="What it reflects is as dangerous as the beam."),
        {"ground": "#a9abac", "mark": "#1d1c1d", "response": 1.6, "texture": "brushed",
         "texture_strength": 40}),
    Material("Window glass", "Wet paper under the beam; something shiny and clean below.",
        _care("Rinse off the splinters; never wipe dry.", "Wet paper or a thin soap film.",
              _CLEAR, "Glass dust: extract and wear gloves."),
        {"polarity": "lightens", "ground": "#9fb3b5", "mark": "#eef2f0", "response": 2.0,
         "clear": True}),
    Material("Mirror, from the back", "Burn the backing away from behind, mirrored.",
        _care("Wipe the dust off the back, then paint it.", "",
              "Something shiny that neither burns nor stains, under its front.",
              "Paint and silver dust: extract."),
        {"polarity": "lightens", "ground": "#8b979c", "mark": "#f4f6f5", "response": 2.4,
         "hazard": "old-mirror", "worked_from": "back"}),
    Material("Cast acrylic", "Cast, not extruded: extruded melts instead of frosting.",
        _care("Soap and water, no alcohol: it cracks.", "Take the film off first.",
              _CLEAR, "Sharp-smelling fumes: extract."),
        {"polarity": "lightens", "ground": "#b7c4c8", "mark": "#f3f5f4", "response": 1.8,
         "clear": True}),
    Material("Cork", "Burns quickly; little power.",
        _care("Brush the crumbs off.", fumes=_WOOD),
        {"ground": "#c39a67", "mark": "#2e1c10", "response": 2.8, "texture": "fibre"}),
    Material("Painted two-colour board", "The upper paint burns off, the lower shows.",
        _care("Wipe with soap and water.", fumes="Paint fumes: extract."),
        {"polarity": "lightens", "ground": "#1b2c46", "mark": "#e9e4d6", "response": 3.4,
         "onset": 0.15}),
    Material("Two-colour carving board", "Dark paint over a pale core: a V-tool shows it.",
        _care("Vacuum, then wipe dry.", fumes="Fine dust: extract, wear a mask.",
              eyes="Chips fly: glasses."),
        {"polarity": "lightens", "ground": "#1f2a38", "mark": "#eadfc4"}),
    Material("Blackened brass", "A diamond scratches it bright; no beam needed.",
        _care("Wipe with a dry cloth, then lacquer."),
        {"polarity": "lightens", "ground": "#2a2622", "mark": "#d9b865",
         "texture": "brushed", "texture_strength": 20}),
    Material("White card", "Thin: it burns through sooner than it browns.",
        _care("Brush it off.", fumes="It may catch fire: stay beside it."),
        {"ground": "#f1ece0", "mark": "#6b4c2d", "response": 1.8, "scorch_from": 1.8}),
    Material("Grey lino", "Burn in two light passes; brush it out between.",
        _care("Brush out between the passes.", fumes="Linoxyn smoke: extract."),
        {"ground": "#8d9488", "mark": "#4a4d46", "response": 1.6}),
    Material("PVC sheet", "Refused: it gives off acid gas.",
        _care(fumes="Chlorine, as acid gas, harms lungs and eats the machine."),
        {"ground": "#d7d9da", "mark": "#7a6a55", "hazard": "chlorine"}),
)  # fmt: skip


def put_materials() -> dict[str, Substrate]:
    """Put all substrates on the shelf."""
    return {
        one.name: put_substrate(one.name, one.note, one.care, **one.part)
        for one in MATERIALS
    }


def _second_standin() -> str:
    """Return where a second simulated machine is reached, empty where there is none."""
    more = settings.MORE_STANDINS
    return f"socket://127.0.0.1:{more[0][0]}" if more else ""


def put_machines() -> tuple[Machine, Machine, Machine]:
    """Put the machines on the shelf; return the beams: a tube, a diode, a fibre one."""
    north = put_machine(
        "North bench", "A 60 W tube on a moving gantry.",
        bed_width_mm=400, bed_height_mm=400, max_speed_mm_s=500, response_ms=0.3,
        rapid_mm_s=500, acceleration_mm_s2=5000, step_mm=0.01, rated_power_w=60,
        lowest_power=8, beam_diameter_mm=6.0, lens="2 inch", z_axis=True, block_mm=19,
        lenses=[{"name": "2 inch", "focal_mm": 50.8, "spot_mm": 0.12},
                {"name": "1.5 inch", "focal_mm": 38.1, "spot_mm": 0.09},
                {"name": "4 inch", "focal_mm": 101.6, "spot_mm": 0.23}],
    )  # fmt: skip
    window = put_machine(
        "Window bench", "A small diode head; its zero is at the back left.",
        link=_second_standin(),
        kind="diode", wavelength_um=0.45, bed_width_mm=300, bed_height_mm=200,
        origin="back-left", max_speed_mm_s=200, rapid_mm_s=200, acceleration_mm_s2=1500,
        spot_mm=0.09, step_mm=0.01, rated_power_w=10, lowest_power=2, beam="M4",
    )  # fmt: skip
    cellar = put_machine(
        "Yard bench", "A fibre beam for metal; it marks black at low speed.",
        kind="fibre", wavelength_um=1.064, bed_width_mm=110, bed_height_mm=110,
        max_speed_mm_s=2000, rapid_mm_s=3000, acceleration_mm_s2=100000,
        rated_power_w=30, lowest_power=5, beam_diameter_mm=7.0, beam_quality=1.4,
        short_names=True, file_ending="nc", file_mb=16, look_ahead=120,
        lens="f 163", lenses=[{"name": "f 163", "focal_mm": 163, "spot_mm": 0.045}],
    )  # fmt: skip
    put_machine(
        "Mill bench", "A spindle with V-tools; touch the tool off on each board.",
        kind="vtool", bed_width_mm=600, bed_height_mm=400, max_speed_mm_s=50,
        rapid_mm_s=60, acceleration_mm_s2=300, spot_mm=0.3, lift_mm=3, z_axis=True,
        max_speed_z_mm_s=15, look_ahead=120,
    )  # fmt: skip
    put_machine(
        "Needle bench", "A diamond under a spring: no beam, no spindle.",
        kind="drag", bed_width_mm=200, bed_height_mm=150, max_speed_mm_s=60,
        rapid_mm_s=80, acceleration_mm_s2=600, spot_mm=0.15, lift_mm=1, depth_mm=0.15,
        z_axis=True, max_speed_z_mm_s=20,
    )  # fmt: skip
    return north, window, cellar


def _recipe(
    speed: float, power: float, pitch: float, method: str = "floyd-steinberg", **more: Any
) -> dict[str, Any]:
    return {"speed_mm_s": float(speed), "power": float(power), "pitch_mm": pitch,
            "method": method, "origin": "start", "confidence": "tried", **more}  # fmt: skip


def put_recipes(
    machines: tuple[Machine, Machine, Machine], of: dict[str, Substrate]
) -> None:
    """Put starting recipes on the shelf."""
    north, window, cellar = machines
    rows: tuple[tuple[Machine, str, str, dict[str, Any]], ...] = (
        (north, "Slate", "Slate, pale mark", _recipe(300, 22, 0.12)),
        (north, "Beech", "Beech, brown", _recipe(350, 26, 0.12, "jarvis", air=True)),
        (north, "Birch plywood", "Birch, brown", _recipe(350, 24, 0.12, "jarvis")),
        (north, "Walnut", "Walnut, dark", _recipe(300, 28, 0.12, "stucki", air=True)),
        (north, "MDF", "MDF, chocolate", _recipe(350, 25, 0.12, air=True)),
        (north, "Veg-tanned leather", "Leather, gentle", _recipe(400, 16, 0.12)),
        (north, "Black anodised aluminium", "Anodised, bright", _recipe(400, 30, 0.12)),
        (north, "Coated white tile", "Tile, titanium white",
         _recipe(250, 40, 0.12, "stucki", coating="Titanium white, thin and dry")),
        (north, "Window glass", "Glass, frosted", _recipe(300, 35, 0.15, "blue-noise")),
        (north, "Mirror, from the back", "Mirror, backing off", _recipe(250, 30, 0.12)),
        (north, "Cast acrylic", "Acrylic, frosted", _recipe(400, 18, 0.12, "blue-noise")),
        (north, "Cork", "Cork, quick", _recipe(400, 14, 0.15, "atkinson")),
        (north, "Painted two-colour board", "Two-colour, upper paint off",
         _recipe(350, 20, 0.12)),
        (north, "White card", "Card, light brown", _recipe(400, 10, 0.12, "round")),
        (cellar, "Stainless steel", "Steel, black",
         _recipe(60, 60, 0.045, pulse_khz=80.0, pulse_ns=200.0)),
        (window, "Slate", "Slate, slow and pale", _recipe(60, 70, 0.1)),
        (window, "Beech", "Beech, fine", _recipe(90, 55, 0.1)),
        (window, "Veg-tanned leather", "Leather, fine", _recipe(110, 40, 0.1, "atkinson")),
        (window, "Black anodised aluminium", "Anodised, fine", _recipe(80, 80, 0.1)),
        (window, "Coated white tile", "Tile, two passes", _recipe(50, 85, 0.1, passes=2)),
        (north, "Birch plywood", "Birch, cut through",
         _recipe(12, 85, 0.12, kind="cut", air=True)),
    )  # fmt: skip
    for machine, substrate, name, values in rows:
        put_recipe(machine, of[substrate], name, **values)
