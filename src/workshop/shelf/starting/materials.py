"""Substrates every shelf begins with.

Colours are guesses at common ones, notes are what shops tell one another (common
practice, no source).
"""

from typing import Any, NamedTuple

from workshop.shelf.models import Substrate
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
