"""The spot a lens makes, how deep it is in focus, and pulses along a row.

Sources: Gaussian beam optics in the terms of ISO 11146 (1/e² diameters, M²);
pulse spacing and overlap by definition.
"""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from engraving.jobspec import JobSpec


@dataclass(frozen=True)
class Focus:
    """A focused beam.

    Attributes
    ----------
    spot_mm : float
        1/e² diameter in focus.
    rayleigh_mm : float
        Distance at which the spot is √2 times as wide.
    """

    spot_mm: float
    rayleigh_mm: float

    @property
    def depth_mm(self) -> float:
        """Depth of focus: twice the Rayleigh range."""
        return 2 * self.rayleigh_mm

    def spot_at(self, off_mm: float) -> float:
        """Return the spot's diameter so far out of focus, d·√(1 + (z/zR)²)."""
        return self.spot_mm * widening(off_mm, self.rayleigh_mm)


def widening(off_mm: Any, rayleigh_mm: Any) -> Any:
    """Return how many times as wide a spot is out of focus, √(1 + (z/zR)²).

    Of numbers, or of arrays of any shape; mm.
    """
    return np.hypot(1, off_mm / rayleigh_mm)


def spot_on_surface_mm(spec: JobSpec) -> float:
    """Return the spot's diameter where a job burns, its focus above the surface or not.

    The fitted lens's own depth of focus where it is known, else that of the beam.
    A touching tool has none.
    """
    machine, off = spec.machine, spec.burn.focus_mm
    if not off or machine.touches or machine.spot_shape != "gaussian":
        return machine.spot_mm
    lens = next((one for one in machine.lenses if one.name == machine.lens), None)
    reach = lens.depth_mm / 2 if lens is not None and lens.depth_mm else 0.0
    reach = reach or rayleigh_mm(
        machine.spot_mm, machine.wavelength_um, machine.beam_quality
    )
    return float(Focus(machine.spot_mm, reach).spot_at(off))


def focused(
    wavelength_um: float, focal_mm: float, beam_diameter_mm: float, quality: float = 1.0
) -> Focus:
    """Return what a lens makes of a beam: d = 4·M²·λ·f/(π·D), zR = π·d²/(4·M²·λ).

    Parameters
    ----------
    wavelength_um : float
    focal_mm, beam_diameter_mm : float
        Focal length, and the beam's 1/e² diameter at the lens.
    quality : float
        M², 1 for a perfect beam.
    """
    wave_mm = wavelength_um / 1000
    spot = 4 * quality * wave_mm * focal_mm / (math.pi * beam_diameter_mm)
    return Focus(spot, rayleigh_mm(spot, wavelength_um, quality))


def rayleigh_mm(spot_mm: float, wavelength_um: float, quality: float = 1.0) -> float:
    """Return the Rayleigh range of a spot, π·d²/(4·M²·λ), in mm."""
    return math.pi * spot_mm**2 / (4 * quality * wavelength_um / 1000)


@dataclass(frozen=True)
class Pulses:
    """Pulses along a row.

    Attributes
    ----------
    apart_mm : float
        From one pulse to the next, v / f.
    per_mm : float
        Pulses in a mm.
    overlap : float
        Share of a spot that the next one covers, 1 − apart/spot; negative
        where dots lie apart.
    pulse_mj : float
        Energy of one pulse, P / f.
    """

    apart_mm: float
    per_mm: float
    overlap: float
    pulse_mj: float


def pulses(khz: float, speed_mm_s: float, spot_mm: float, power_w: float) -> Pulses:
    """Return the pulses of a beam at a frequency in kHz."""
    apart = speed_mm_s / (khz * 1000)
    return Pulses(apart, 1 / apart, 1 - apart / spot_mm, power_w / khz)


def mark_width_mm(spot_mm: float, over_threshold: float) -> float:
    """Return how wide a line marks: d·√(ln(F₀/Fth)/2), 0 below the threshold.

    `over_threshold` is F₀/Fth, peak over threshold (Liu 1982, Opt. Lett. 7:196–198).
    """
    if over_threshold <= 1:
        return 0.0
    return spot_mm * math.sqrt(math.log(over_threshold) / 2)
