"""Carry a recipe over to another machine by equal areal dose.

The dose P·n/(v·p) of a solid patch is kept. Rows lie as far apart as they did,
measured in spots, but no closer than 0.7; power stays the same share
of what the machine can do, speed follows, and where the machine cannot run
that fast or slow, power and passes follow. What equal dose cannot promise is
said in `Carried.unmatched`.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from statistics import median

from engraving.errors import InputError
from engraving.jobspec import (
    COARSEST_PITCH_MM,
    FINEST_PITCH_MM,
    MachinePart,
    RecipePart,
    SubstratePart,
)
from engraving.recipe.dose import areal_dose_j_mm2, watts

SLOWEST_MM_S = 2.0
"""Slower than this no raster is sensible (common practice)."""
_MOST_PASSES = 20
_CLOSEST = 0.7
"""Rows closer than so many spots only add heat (common practice)."""


@dataclass(frozen=True)
class Setting:
    """One side of the arithmetic."""

    power_w: float
    power: float
    speed_mm_s: float
    pitch_mm: float
    passes: int
    spot_mm: float

    @property
    def dose(self) -> float:
        """Areal dose in J/mm²."""
        return areal_dose_j_mm2(self.power_w, self.speed_mm_s, self.pitch_mm, self.passes)

    @property
    def overlap(self) -> float:
        """Share of a spot that the next row covers; negative where rows lie apart."""
        return 1 - self.pitch_mm / self.spot_mm

    @property
    def line_j_mm(self) -> float:
        """Energy of one pass along a row in J/mm."""
        return self.power_w / self.speed_mm_s


@dataclass(frozen=True)
class Carried:
    """A recipe on another machine, with the arithmetic and what could not be matched."""

    recipe: RecipePart
    before: Setting
    after: Setting
    unmatched: tuple[str, ...]

    @property
    def dose_ratio(self) -> float:
        """Dose after over dose before; 1 where it could be kept."""
        return self.after.dose / self.before.dose


def setting(recipe: RecipePart, machine: MachinePart) -> Setting:
    """Return what a recipe sets on a machine."""
    return Setting(
        watts(recipe.power, machine.rated_power_w),
        recipe.power,
        recipe.speed_mm_s,
        recipe.pitch_mm,
        recipe.passes * (2 if recipe.cross else 1),
        spot_of(machine, recipe.lens),
    )


def spot_of(machine: MachinePart, lens: str) -> float:
    """Return the spot of one of a machine's lenses, of the fitted one for an unknown."""
    found = [one.spot_mm for one in machine.lenses if one.name == lens]
    return found[0] if found else machine.spot_mm


def carry_over(recipe: RecipePart, source: MachinePart, target: MachinePart) -> Carried:
    """Return a recipe for another machine, of equal areal dose within its limits.

    Raises
    ------
    InputError
        When it has no dose to keep.
    """
    before = setting(recipe, source)
    if before.dose <= 0:
        raise InputError("This recipe burns nothing: its power is 0 %.", field="power")
    spot = target.spot_mm
    wide = max(before.pitch_mm / before.spot_mm, _CLOSEST) * spot
    pitch = round(min(max(wide, FINEST_PITCH_MM), COARSEST_PITCH_MM), 4)
    wanted = before.dose
    power, speed, passes = solve(wanted, pitch, target, start=recipe.power)
    low = recipe.lowest_power / recipe.power if recipe.power else 0.0
    changes = {
        "lens": target.lens,
        "speed_mm_s": speed,
        "power": power,
        "lowest_power": min(round(power * low, 1), power),
        "passes": passes,
        "pitch_mm": pitch,
        "cross": False,
        "origin": "carried",
        "confidence": "untested",
        "rating": 0,
        "patches": (),
        "focus_mm": 0.0,
        "tool": recipe.tool if target.kind == "vtool" else None,
        "spot_mm": target.spot_mm,
        "rated_power_w": target.rated_power_w,
    }
    if target.kind != "fibre":
        changes |= {"pulse_khz": 0.0, "pulse_ns": 0.0}
    carried = RecipePart.model_validate({**recipe.model_dump(), **changes})
    after = setting(carried, target)
    return Carried(carried, before, after, tuple(_unmatched(recipe, source, target, after)))


def solve(
    dose: float, pitch_mm: float, machine: MachinePart, start: float
) -> tuple[float, float, int]:
    """Return power in %, speed in mm/s and passes that give a dose at a pitch.

    Power stays at `start` while the machine can run at the speed it asks for;
    beyond its fastest the power falls, down to what still marks; below the
    slowest sensible speed it rises, then passes are added.
    """
    fastest = machine.max_speed_mm_s
    power = min(max(start, machine.lowest_power, 0.1), 100.0)
    per_percent = machine.rated_power_w / 100 / pitch_mm
    speed = per_percent * power / dose
    passes = 1
    if speed > fastest:
        speed = fastest
        power = max(dose * speed / per_percent, machine.lowest_power, 0.1)
    elif speed < SLOWEST_MM_S:
        power = min(dose * SLOWEST_MM_S / per_percent, 100.0)
        passes = min(max(math.ceil(dose * SLOWEST_MM_S / (per_percent * power) - 1e-9), 1),
                     _MOST_PASSES)  # fmt: skip
        speed = max(per_percent * power * passes / dose, SLOWEST_MM_S)
    power = round(power, 1)
    # Speed is set finer than power, so it takes up what rounding the power left.
    speed = min(_settable(per_percent * power * passes / dose), fastest)
    return power, max(speed, 0.1), passes


def _settable(speed_mm_s: float) -> float:
    return round(speed_mm_s, 1) if speed_mm_s >= 20 else round(speed_mm_s, 2)


def _unmatched(
    recipe: RecipePart, source: MachinePart, target: MachinePart, after: Setting
) -> Iterable[str]:
    before = setting(recipe, source)
    ratio = after.dose / before.dose
    if abs(ratio - 1) > 0.01:
        limit = "fast enough or so weakly" if ratio > 1 else "slowly enough or so strongly"
        yield f"The dose comes out at {ratio:.2f} times: {target.name} cannot run {limit}."
    waves = source.wavelength_um, target.wavelength_um
    if source.kind != target.kind or abs(waves[0] / waves[1] - 1) > 0.05:
        yield (
            f"Another kind of beam ({waves[0]:g} µm, then {waves[1]:g} µm): the material "
            "may take in more or less of the same dose."
        )
    peak = (after.line_j_mm / after.spot_mm) / (before.line_j_mm / before.spot_mm)
    if not 0.8 <= peak <= 1.25:
        yield (
            f"The spot is {after.spot_mm:.3f} instead of {before.spot_mm:.3f} mm, so "
            f"along the middle of a row the energy is {peak:.2f} times as dense."
        )
    if abs(after.pitch_mm / before.pitch_mm - 1) > 0.005:
        yield (
            f"Rows lie {after.pitch_mm:.3f} instead of {before.pitch_mm:.3f} mm apart, as "
            "the spot is another."
        )
    if recipe.patches:
        yield "The measured tone curve was for the other spot; burn a gray ramp card again."
    if recipe.pulse_khz and target.kind != "fibre":
        yield "The pulse data have no meaning here and were left out."


@dataclass(frozen=True)
class Candidate:
    """A recipe on the shelf that a new one may begin with."""

    recipe: RecipePart
    machine: MachinePart
    substrate: SubstratePart
    label: str = ""


def unlikeness(one: SubstratePart, other: SubstratePart) -> float:
    """Return how little two substrates have in common; 0 is alike.

    What the beam does weighs most, then the kind of material, then its
    colour and its answer. A rough order for a starting point, no physics.
    """
    ground = sum(
        (int(one.ground[i : i + 2], 16) - int(other.ground[i : i + 2], 16)) ** 2
        for i in (1, 3, 5)
    )
    return (
        4.0 * (one.polarity != other.polarity)
        + 1.5 * (one.clear != other.clear)
        + 1.0 * (one.texture != other.texture)
        + math.sqrt(ground) / 255
        + abs(math.log(one.response / other.response))
    )


def starting_recipe(
    substrate: SubstratePart, machine: MachinePart, known: Sequence[Candidate]
) -> tuple[RecipePart, tuple[Candidate, ...]] | None:
    """Return a recipe to begin with, and the nearest ones it comes from.

    Up to three recipes of the most alike substrates are carried over to the
    machine; their middle dose is taken. None where nothing on the shelf
    burns the way this substrate does.
    """
    alike = [one for one in known if one.substrate.polarity == substrate.polarity]
    alike.sort(key=lambda one: unlikeness(one.substrate, substrate))
    nearest = tuple(alike[:3])
    if not nearest:
        return None
    carried = [carry_over(one.recipe, one.machine, machine) for one in nearest]
    first = carried[0].recipe
    dose = median(one.after.dose for one in carried)
    power, speed, passes = solve(dose, first.pitch_mm, machine, start=first.power)
    changes = {"power": power, "speed_mm_s": speed, "passes": passes, "origin": "start",
               "lowest_power": min(first.lowest_power, power)}  # fmt: skip
    return RecipePart.model_validate({**first.model_dump(), **changes}), nearest
