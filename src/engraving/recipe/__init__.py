"""Dose and speed: the arithmetic of power, speed, pitch, passes, spot and pulses."""

from engraving.recipe.burned import recipe_of
from engraving.recipe.carry import (
    Candidate,
    Carried,
    Setting,
    carry_over,
    setting,
    spot_of,
    starting_recipe,
    unlikeness,
)
from engraving.recipe.dose import (
    areal_dose_j_mm2,
    exposure,
    job_dose_j_mm2,
    least_run_mm,
    line_energy_j_mm,
    quickest_row_speed_mm_s,
    row_seconds,
    row_shift_mm,
    run_up_mm,
    smear_mm,
    watts,
)
from engraving.recipe.optics import (
    Focus,
    Pulses,
    focused,
    mark_width_mm,
    pulses,
    rayleigh_mm,
)
from engraving.recipe.variants import Variant, full_rows_seconds, quickest_mm_s, variants

__all__ = [
    "Candidate",
    "Carried",
    "Focus",
    "Pulses",
    "Setting",
    "Variant",
    "areal_dose_j_mm2",
    "carry_over",
    "exposure",
    "focused",
    "full_rows_seconds",
    "job_dose_j_mm2",
    "least_run_mm",
    "line_energy_j_mm",
    "mark_width_mm",
    "pulses",
    "quickest_mm_s",
    "quickest_row_speed_mm_s",
    "rayleigh_mm",
    "recipe_of",
    "row_seconds",
    "row_shift_mm",
    "run_up_mm",
    "setting",
    "smear_mm",
    "spot_of",
    "starting_recipe",
    "unlikeness",
    "variants",
    "watts",
]
