"""What follows from a machine, for its page."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from engraving.errors import EngravingError
from engraving.jobspec import LensPart, MachinePart
from engraving.recipe import (
    Focus,
    focused,
    quickest_row_speed_mm_s,
    rayleigh_mm,
    run_up_mm,
)
from workshop.shelf.machines.changes import machine_part


@dataclass(frozen=True)
class LensFacts:
    """A lens, what its optics give, its depth of focus in mm, whether it is fitted."""

    lens: LensPart
    computed: Focus | None
    depth: float
    fitted: bool


def lens_facts(part: MachinePart) -> list[LensFacts]:
    """Return each lens with what its optics give, for the page and its formulas."""
    return [_lens_facts(part, lens) for lens in part.lenses]


def _lens_facts(part: MachinePart, lens: LensPart) -> LensFacts:
    computed = None
    if part.beam_diameter_mm and not part.touches:
        computed = focused(
            part.wavelength_um, lens.focal_mm, part.beam_diameter_mm, part.beam_quality
        )
    depth = lens.depth_mm or 2 * rayleigh_mm(
        lens.spot_mm, part.wavelength_um, part.beam_quality
    )
    return LensFacts(lens, computed, depth, lens.name == part.lens)


@dataclass(frozen=True)
class MachineFacts:
    """What follows from a machine's values; mm, mm/s and µm."""

    part: MachinePart
    lenses: list[LensFacts]
    run_up: float
    smear: float
    quickest: float
    step_um: float


def machine_facts(data: Mapping[str, Any]) -> MachineFacts | None:
    """Return what follows from a machine's values; None while they make no machine."""
    try:
        part = machine_part({"name": "machine", **data})
    except EngravingError:
        return None
    speed = part.max_speed_mm_s
    return MachineFacts(
        part=part,
        lenses=lens_facts(part),
        run_up=run_up_mm(speed, part.acceleration_mm_s2),
        smear=part.response_ms / 1000 * speed,
        quickest=min(quickest_row_speed_mm_s(100, part.acceleration_mm_s2), speed),
        step_um=part.step_mm * 1000,
    )
