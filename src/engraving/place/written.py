"""How finely positions are written: the machine's decimals, or as many as rows need."""

import math

from engraving.jobspec import JobSpec
from engraving.place.mount import written_per_mm
from engraving.units import MM_PER_INCH

ROW_SHARE = 20
"""Rows land within a twentieth of their distance (common practice, no source)."""
_EVEN = 1e-6


def as_written(spec: JobSpec) -> JobSpec:
    """Return a job whose machine writes enough decimals for its rows.

    At least as many as the machine is set to, at most those its controller reads.
    """
    machine = spec.machine
    coarsest = _finest_mm(spec) / ROW_SHARE / _unit_length(spec) / _oblique(spec)
    needed = math.ceil(-math.log10(coarsest) - _EVEN)
    most = max(machine.most_decimals, machine.decimals)
    decimals = min(max(machine.decimals, needed), most)
    if decimals == machine.decimals:
        return spec
    finer = machine.model_copy(update={"decimals": decimals})
    return spec.model_copy(update={"machine": finer})


def unevenness(spec: JobSpec) -> float:
    """Return how much wider the widest distance of two rows is than the narrowest.

    A share of the pitch, from positions rounded to what is written; 0 where each
    row lies on a whole unit.
    """
    written = as_written(spec)
    unit = 10.0**-written.machine.decimals * _unit_length(spec)
    rows = [
        pitch
        for pitch in _row_distances(spec)
        if spec.place.turn_deg % 90 or abs(pitch / unit - round(pitch / unit)) > _EVEN
    ]
    return max((_oblique(spec) * unit / pitch for pitch in rows), default=0.0)


def _oblique(spec: JobSpec) -> float:
    """Return how many units a row may be off: on a slant both its places are rounded."""
    return math.sqrt(2) if spec.place.turn_deg % 90 else 1.0


def _unit_length(spec: JobSpec) -> float:
    """Return the mm of surface that a written 1 stands for, the coarser axis's."""
    inch = MM_PER_INCH if spec.machine.inches else 1.0
    told = 1 / abs(written_per_mm(spec))
    if spec.mount.rotary and spec.mount.output == "degrees":
        return max(inch, told)  # degrees are degrees in inches too
    return inch * max(1.0, told)


def _row_distances(spec: JobSpec) -> list[float]:
    along, pitch = spec.size.cell_mm
    if spec.burn.cross:
        return [along, pitch]
    return [along if spec.burn.rows == "y" else pitch]


def _finest_mm(spec: JobSpec) -> float:
    """Return the least distance of lines that a job burns."""
    hatches = [one.spacing_mm for one in spec.outlines if one.on and one.kind == "hatch"]
    return min([*_row_distances(spec), *hatches])
