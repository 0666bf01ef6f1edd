"""Dose and speed: the arithmetic of power, speed, pitch and passes."""

from engraving.recipe.dose import (
    areal_dose_j_mm2,
    exposure,
    job_dose_j_mm2,
    least_run_mm,
    line_energy_j_mm,
    quickest_row_speed_mm_s,
    row_seconds,
    run_up_mm,
    smear_mm,
    watts,
)

__all__ = [
    "areal_dose_j_mm2",
    "exposure",
    "job_dose_j_mm2",
    "least_run_mm",
    "line_energy_j_mm",
    "quickest_row_speed_mm_s",
    "row_seconds",
    "run_up_mm",
    "smear_mm",
    "watts",
]
