"""The recipe that a job was burned with."""

from math import isclose
from typing import Any

from engraving.jobspec import BURN_SETTINGS, JobSpec, RecipePart

_SAME = ("kind", "method", "passes", "cross")
_ALIKE = ("speed_mm_s", "power", "pitch_mm", "focus_mm", "pulse_khz", "pulse_ns")


def recipe_of(spec: JobSpec, **more: Any) -> RecipePart:
    """Return a job's settings as a recipe.

    Parameters
    ----------
    spec : JobSpec
    **more
        Further values of the recipe, such as where it comes from.
    """
    burn, dots = spec.burn, spec.dots
    tones = dots.method == "power"
    values = {name: getattr(burn, name) for name in BURN_SETTINGS}
    relief = spec.marking.relief
    measured = spec.reproduction.mode == "measured"
    return RecipePart.model_validate(
        {
            **values,
            "kind": "tone" if tones else "dots",
            "lens": spec.machine.lens,
            "pitch_mm": spec.size.pitch_mm,
            "method": dots.method,
            "lowest_power": round(burn.power * dots.floor / 100, 2) if tones else 0.0,
            "angle_deg": 90.0 if burn.rows == "y" else 0.0,
            "per_pass_mm": relief.per_pass_mm if spec.marking.way == "relief" else 0.0,
            "tool": spec.marking.carving.tool if spec.machine.kind == "vtool" else None,
            "patches": spec.reproduction.patches if measured else (),
            **more,
        }
    )


def unlike(spec: JobSpec, part: RecipePart) -> list[str]:
    """Return in what a job burns its dots otherwise than a recipe says, as values' names.

    All that makes tones counts. A recipe that names no lens is for any. Measured tones
    and what is noted beside the settings do not count; the direction of rows and both
    ways neither.
    """
    own = recipe_of(spec)
    found = [name for name in _SAME if getattr(own, name) != getattr(part, name)]
    if part.lens and part.lens != own.lens:
        found.append("lens")
    if part.tool is not None and own.tool is not None and part.tool != own.tool:
        found.append("tool")
    found += [
        name
        for name in _ALIKE
        if not isclose(getattr(own, name), getattr(part, name), rel_tol=1e-4, abs_tol=1e-6)
    ]
    return found
