"""What the Dots station says beside its fields."""

from dataclasses import dataclass

import numpy as np

from engraving.colour.lightness import luminance
from engraving.dots import METHODS
from engraving.dots.screens import tones
from engraving.jobspec import JobSpec
from engraving.pipeline import stage_key
from engraving.proof.reproduction import Process, burned_lightness
from engraving.recipe import least_run_mm, smear_mm
from workshop.jobs.pictures.engine import pipeline, stage_cache

_HALF = 128


@dataclass(frozen=True)
class DotsFacts:
    """What follows from the dot method; shares, mm, ms and mm/s."""

    family: str
    tones: int
    gain: float | None
    middle: float
    smear: float
    response_ms: float
    speed: float
    least_run: float
    short_runs: int
    narrow: bool
    spot: float


def dots_facts(spec: JobSpec, *, quick: bool = False) -> DotsFacts:
    """Return tones a screen can show, dot gain, and what the beam can place."""
    method = METHODS.get(spec.dots.method)
    family = method.family if method else ""
    screen = family in ("screen", "line")
    return DotsFacts(
        family=family,
        tones=tones(spec.dots.method, spec.dots, spec.size.cell_mm) if screen else 0,
        gain=None if quick else dot_gain(spec),
        middle=_middle(spec),
        smear=smear_mm(spec),
        response_ms=spec.machine.response_ms,
        speed=spec.burn.speed_mm_s,
        least_run=least_run_mm(spec),
        short_runs=0 if quick else pipeline().short_runs(spec),
        narrow=screen and 10 / spec.dots.ruling_cm < 3 * spec.machine.spot_mm,
        spot=spec.machine.spot_mm,
    )


def dot_gain(spec: JobSpec) -> float | None:
    """Return how much larger a half-covered patch looks than it is, in shares.

    By the luminance of burned patches (Murray–Davies); None where dots are
    the artwork's own.
    """
    if spec.keeps_dots or spec.dots.method == "threshold":
        return None
    stages = pipeline()
    key = stage_key("gain", stages.process.key(spec))
    return stage_cache().get(key, lambda: _gain(stages.process(spec)))


def _gain(process: Process) -> float:
    patches = burned_lightness(process, np.array([0, 0.5, 1]))
    bare, half, solid = luminance(patches).tolist()
    return float((bare - half) / (bare - solid)) - 0.5 if bare != solid else 0.0


def _middle(spec: JobSpec) -> float:
    """Return the share of dots that middle gray burns."""
    table = pipeline().reproduction(spec)
    if table is None:
        return 1 - _HALF / 255 if spec.burns_dark else _HALF / 255
    return 1 - float(table[_HALF]) / 255
