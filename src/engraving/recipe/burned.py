"""The recipe that a job was burned with."""

from typing import Any

from engraving.jobspec import BURN_SETTINGS, JobSpec, RecipePart


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
            "patches": spec.reproduction.patches if measured else (),
            **more,
        }
    )
