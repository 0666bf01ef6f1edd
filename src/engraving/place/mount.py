"""A piece as it lies on the machine: flat, or round and turned.

Sources: circumference π·D; chuck: π·D/360 mm of surface a degree; rollers
drive the surface, so a turn of the roller is π·d_roller whatever the piece.
"""

import math

from engraving.jobspec import ROUND, BlankPart, JobSpec, MountPart, SizePart, ZonePart

FULL_TURN = 360.0


def diameter_mm(blank: BlankPart) -> float:
    """Return a round blank's diameter, of a taper the mean one; 0 of others."""
    return blank.width_mm / math.pi if blank.shape in ROUND else 0.0


def mm_per_degree(diameter: float) -> float:
    """Return the surface's way for each degree the piece turns, π·D/360."""
    return math.pi * diameter / FULL_TURN


def surface_steps_per_mm(mount: MountPart, diameter: float) -> float:
    """Return the drive's steps for each mm of surface.

    A chuck turns the piece, so its diameter counts; rollers drive the surface,
    so only theirs does.
    """
    across = mount.roller_mm if mount.kind == "rollers" else diameter
    return mount.steps_per_turn / (math.pi * across)


def written_per_mm(spec: JobSpec) -> float:
    """Return how much the second axis is told to move for each mm of surface.

    Degrees of the piece (of the roller, on rollers), or millimetres of a
    controller that is set to so many steps for each; negative where reversed.
    """
    mount = spec.mount
    if not mount.rotary:
        return 1.0
    across = mount.roller_mm if mount.kind == "rollers" else diameter_mm(spec.blank)
    if mount.output == "degrees":
        amount = 1 / mm_per_degree(across)
    else:
        amount = surface_steps_per_mm(mount, across) / mount.y_steps_mm
    return -amount if mount.reversed else amount


def rotary_surface(spec: JobSpec) -> tuple[float, float]:
    """Return the surface in mm for a mm told on Y, and for a degree told on A.

    What a rotary with these data does; (1, 0) without one.
    """
    if not spec.mount.rotary:
        return 1.0, 0.0
    told = 1 / written_per_mm(spec)
    return (1.0, told) if spec.mount.output == "degrees" else (told, 0.0)


def after_a_wrong_stop(steps_per_turn: float, past_deg: float) -> float:
    """Return the steps for a turn after one that stopped so far past its mark.

    Told to turn once it turned 360° + past: fewer steps are needed.
    """
    return steps_per_turn * FULL_TURN / (FULL_TURN + past_deg)


def tilt_deg(blank: BlankPart) -> float:
    """Return the tilt that brings a tapered wall level, atan((D1 − D2)/(2h))."""
    if blank.shape != "taper" or not blank.foot_mm:
        return 0.0
    return math.degrees(
        math.atan((blank.diameter_mm - blank.foot_mm) / (2 * blank.height_mm))
    )


def slant_mm(blank: BlankPart) -> float:
    """Return the length of a tapered wall along itself, √(h² + ((D1 − D2)/2)²)."""
    if blank.shape != "taper" or not blank.foot_mm:
        return blank.height_mm
    return math.hypot(blank.height_mm, (blank.diameter_mm - blank.foot_mm) / 2)


def zones_on_wall(spec: JobSpec) -> list[tuple[ZonePart, float, float]]:
    """Return each zone, and where it begins and ends from the middle of the wall, in mm."""
    half = spec.blank.width_mm / 2
    return [
        (zone, zone.from_mm - half, zone.from_mm + zone.width_mm - half)
        for zone in spec.mount.zones
    ]


def zones_hit(spec: JobSpec) -> list[tuple[ZonePart, float]]:
    """Return the zones that the picture runs over, and by how much, in mm."""
    around = spec.blank.width_mm
    left = spec.size.offset_x_mm - spec.size.width_mm / 2
    right = left + spec.size.width_mm
    found = []
    for zone, begin, end in zones_on_wall(spec):
        # The wall goes round: a picture may meet a zone beyond the seam.
        over = max(
            min(right, end + turn) - max(left, begin + turn)
            for turn in (-around, 0, around)
        )
        if over > 1e-6:
            found.append((zone, over))
    return found


def after_a_line(steps_per_turn: float, told_mm: float, measured_mm: float) -> float:
    """Return the steps for a turn after a line that came out longer or shorter.

    Told so many mm of surface it moved as many as were measured.
    """
    return steps_per_turn * told_mm / measured_mm


def ring_diameter_mm(size: float, wall_mm: float) -> float:
    """Return a ring's outer diameter by its size (ISO 8653: inner circumference in mm)."""
    return size / math.pi + 2 * wall_mm


def repeating_pitch_mm(circumference_mm: float, pitch_mm: float, repeat: int) -> float:
    """Return the pitch next to a wanted one that closes in so many equal parts."""
    each = max(round(circumference_mm / pitch_mm / repeat), 1)
    return circumference_mm / (each * repeat)


def mounted(spec: JobSpec) -> JobSpec:
    """Return a job as its piece lies on the machine: a round one is turned a quarter.

    The wall's length then runs along X, and rows follow one another round it.
    """
    if not spec.mount.rotary:
        return spec
    size, blank = spec.size, spec.blank
    along, pitch = size.cell_mm
    way = 1 if spec.mount.top == "left" else -1
    turned = SizePart.model_construct(
        **{
            **size.model_dump(),
            "width_mm": size.height_mm,
            "height_mm": size.width_mm,
            "pitch_mm": along,
            "dot_pitch_mm": pitch,
            "offset_x_mm": -way * size.offset_y_mm,
            "offset_y_mm": way * size.offset_x_mm,
            "repeat": 1,
        }
    )
    lying = blank.model_copy(
        update={
            "shape": "rectangle",
            "width_mm": blank.height_mm,
            "height_mm": blank.width_mm,
            "area": None,
        }
    )
    return spec.model_copy(
        update={"size": turned, "blank": lying, "mount": MountPart(), "fixture": None}
    )
