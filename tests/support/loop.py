"""The closed loop's figures, for the tests that bound them and the bench that prints them.

Each burns a card on the stand-in, photographs it aslant in uneven light, reads
it, and holds what was read against what was hidden.
"""

import dataclasses

import numpy as np

from engraving.cards import (
    best_cell,
    focus_of,
    lay_out,
    measure,
    row_shifts,
    starting_card,
    tone_curve,
)
from engraving.jobspec import ArtworkPart, JobSpec, MachinePart, SizePart
from standins.camera import View, marks_of
from support.cards import burned, card_spec, material, seen
from support.jobs import changed, pipeline_of
from support.ramps import lightness

MACHINE = MachinePart(max_speed_mm_s=500, acceleration_mm_s2=5000, z_axis=True)
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
CODES = np.array([0, 25, 51, 76, 102, 128, 153, 179, 204, 230, 255])
DELAY_MS, SLACK_MM, FOCUS_MM = 0.09, 0.03, 0.4


def true_lightness(machine, surface, box, inner=0.8):
    """L* of a box of the bed as it lies there, no camera between."""
    x, y, wide, high = box
    left, front = x + wide * (1 - inner) / 2, y + high * (1 - inner) / 2
    light = marks_of(
        machine.strokes(), surface, left, front, (wide * inner, high * inner), 0.025
    )
    return float(lightness(np.array((light @ LUMINANCE).mean())))


def second_ramp_off(name):
    """RMS in L* of a second ramp to what is wanted, after the first one's curve was read."""
    told, surface = material(name)
    card = starting_card("gray-ramp", MACHINE).model_dump() | {"cell_mm": 5.0}
    card["columns"]["count"] = 17
    burn = {"speed_mm_s": 200, "power": 60}
    spec = card_spec(told, card, burn)
    _, flat = seen(spec, surface)
    second, pipeline = _ramp(told, burn, tone_curve(measure(spec, flat)))
    machine, side, place = burned(second, pipeline), 6.0, second.place
    out = np.array([
        true_lightness(machine, surface, (place.x_mm + i * side, place.y_mm, side, side))
        for i in range(len(CODES))
    ])  # fmt: skip
    code = CODES / 255
    light = np.where(code <= 0.04045, code / 12.92, ((code + 0.055) / 1.055) ** 2.4)
    wanted = out.min() + (out.max() - out.min()) * lightness(light) / 100
    return float(np.sqrt(((out - wanted) ** 2).mean()))


def _ramp(told, burn, curve):
    gray = np.kron(CODES[None, :], np.ones((60, 60))).astype(np.uint8)
    spec = JobSpec(
        artwork=ArtworkPart(width_px=gray.shape[1], height_px=60),
        size=SizePart(width_mm=gray.shape[1] * 0.1, height_mm=6.0, pitch_mm=0.1),
        substrate=told,
        machine=MACHINE,
    )
    patches = {"mode": "measured", "patches": curve}
    return changed(spec, burn=burn, reproduction=patches), pipeline_of(gray)


def shifts_off(name):
    """Largest distance in mm of the read return-row shifts to the hidden ones."""
    told, surface = material(name)
    spec = card_spec(told, starting_card("row-shift", MACHINE), {"power": 90})
    _, flat = seen(spec, surface, delay_ms=DELAY_MS, slack_mm=SLACK_MM)
    found = row_shifts(spec, flat)
    assert len(found) == 4
    return max(abs(shift - (2 * v * DELAY_MS / 1000 - SLACK_MM)) for v, shift in found)


def focus_off(name):
    """Relative distance of the read spot, and that of the focus in mm."""
    told, surface = material(name)
    surface = dataclasses.replace(surface, focus_mm=FOCUS_MM)
    burn = {"power": 60, "speed_mm_s": 50}
    spec = card_spec(told, starting_card("focus", MACHINE), burn)
    _, flat = seen(spec, surface, View(px_mm=32))
    found = focus_of(spec, flat)
    return abs(found.spot_mm / surface.spot_mm - 1), abs(found.z_mm - FOCUS_MM)


def best_off(name):
    """Distance in cells of the best cell to that of the material seen without a camera.

    As a logarithm of dose, in steps of the card's coarser side.
    """
    told, surface = material(name)
    spec = card_spec(told, starting_card("power-speed", MACHINE))
    machine = burned(spec)
    _, flat = seen(spec, surface)
    found, place = best_cell(measure(spec, flat)).cell, spec.place
    bare = float(lightness(np.array(np.array(surface.ground) @ LUMINANCE)))

    def away(cell):
        box = (
            place.x_mm + cell.x_mm,
            place.y_mm + cell.y_mm,
            cell.width_mm,
            cell.height_mm,
        )
        return abs(true_lightness(machine, surface, box, 0.5) - bare)

    far = [(away(cell), cell) for cell in lay_out(spec).cells]
    most = max(one for one, _ in far)
    strong = [cell for one, cell in far if one >= 0.95 * most]
    best = min(strong, key=lambda cell: cell.power / cell.speed_mm_s)
    dose = [np.log(cell.power / cell.speed_mm_s) for cell in (found, best)]
    sides = spec.card.columns.values, spec.card.rows.values
    step = max(np.diff(np.log(side)).max() for side in sides)
    return float(abs(dose[0] - dose[1]) / step)
