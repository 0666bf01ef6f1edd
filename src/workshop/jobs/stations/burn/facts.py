"""What the burn station shows beside its fields."""

from dataclasses import dataclass

from engraving.check import even_dose
from engraving.jobspec import BURN_SETTINGS, JobSpec, MachinePart, RecipePart
from engraving.pipeline.stages.ways.registry import WAYS
from engraving.recipe import (
    Pulses,
    Variant,
    exposure,
    job_dose_j_mm2,
    line_energy_j_mm,
    pulses,
    quickest_mm_s,
    row_top_speed,
    run_ups_mm,
    variants,
    watts,
)
from workshop.jobs.models import Job
from workshop.shelf.recipes.carry import start_recipe
from workshop.shelf.recipes.changes import recipe_part

_NEAR = 0.01
"""A dose that is off by less is the same."""


@dataclass(frozen=True)
class Start:
    """Settings to begin with where no recipe is known."""

    part: RecipePart
    source: str
    taken: bool


@dataclass(frozen=True)
class EvenDose:
    """The one change that gives the recipe's dose."""

    set: str
    says: str


@dataclass(frozen=True)
class BurnFacts:
    """What follows from power, speed and rows; mm, s, W and J/mm²."""

    run_up: float
    dose: float
    line_energy: float
    watts: float
    mm_min: float
    quickest: float
    machine: MachinePart
    most: float
    spot: float
    recipe_changed: bool
    start: Start | None
    exposure: float
    even: EvenDose | None
    variants: list[Variant]
    version: int
    newest: int
    pulses: Pulses | None
    card: str


def burn_facts(spec: JobSpec, job: Job) -> BurnFacts:
    """Return what the Burn station shows beside its fields."""
    burn, machine = spec.burn, spec.machine
    power_w = watts(burn.power, machine.rated_power_w)
    return BurnFacts(
        run_up=max(run_ups_mm(spec)),
        dose=job_dose_j_mm2(spec),
        line_energy=line_energy_j_mm(power_w, burn.speed_mm_s),
        watts=power_w,
        mm_min=burn.speed_mm_s * 60,
        quickest=quickest_mm_s(spec),
        machine=machine,
        most=row_top_speed(spec),
        spot=machine.spot_mm,
        recipe_changed=_differs(spec, job),
        start=_start(spec, job),
        exposure=exposure(spec),
        even=_even(spec),
        variants=[] if spec.card else variants(spec),
        version=spec.burn.recipe_version,
        newest=job.recipe.version if job.recipe else 0,
        pulses=_pulses(spec, power_w),
        card=WAYS[spec.marking.way].card,
    )


def _start(spec: JobSpec, job: Job) -> Start | None:
    """Return settings to begin with where no recipe is known, and where they are from."""
    if spec.card or job.recipe or not (job.machine and job.substrate):
        return None
    found = start_recipe(job.substrate, job.machine)
    if found is None:
        return None
    part, sources = found
    taken = spec.burn.begun_with == sources[0][:200]
    return Start(part, sources[0], taken)


def _pulses(spec: JobSpec, power_w: float) -> Pulses | None:
    burn, spot = spec.burn, spec.machine.spot_mm
    if not burn.pulse_khz:
        return None
    return pulses(burn.pulse_khz, burn.speed_mm_s, spot, power_w)


def _even(spec: JobSpec) -> EvenDose | None:
    """Return the one change that gives the recipe's dose; None where there is none."""
    fix = even_dose(spec) if abs(exposure(spec) - 1) > _NEAR else None
    if fix is None:
        return None
    [(name, value)] = fix.changes["burn"].items()
    field = {"speed_mm_s": "speed"}.get(name, name)
    label = fix.label.removeprefix("Set ")
    return EvenDose(f"{field}={value:.1f}", f"Same dose at {label}")


def _differs(spec: JobSpec, job: Job) -> bool:
    """Whether the job burns otherwise than its recipe says now."""
    if job.recipe is None:
        return False
    part, burn = recipe_part(job.recipe), spec.burn
    if any(getattr(part, name) != getattr(burn, name) for name in (*BURN_SETTINGS, "rows")):
        return True
    return abs(part.pitch_mm - spec.size.pitch_mm) > 1e-9
