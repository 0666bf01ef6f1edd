"""How a blank and its picture lie on the bed."""

from dataclasses import dataclass

from shapely.affinity import translate

from engraving.geometry.polygons import path_data, polygons, rings
from engraving.geometry.rotation import turned_about
from engraving.jobspec import JobSpec
from engraving.place import Box, from_picture, lying_face, piece_box


def svg_turn(spec: JobSpec, more_deg: float = 0.0) -> str:
    """Return the SVG transform that turns the piece about its picture's middle."""
    turn = spec.place.turn_deg + more_deg
    if not turn:
        return ""
    x, y = piece_box(spec.size, spec.place).middle
    deep = spec.machine.bed_height_mm - y
    return f"rotate({-turn:.4f} {x:.4f} {deep:.4f})"


@dataclass(frozen=True)
class DrawnBlank:
    """A blank on the bed: its edge as SVG path data, y counted from the back."""

    left: float
    top: float
    width: float
    height: float
    edge: str
    ground: str


def drawn_blank(spec: JobSpec) -> DrawnBlank:
    """Return what draws a blank on the bed, y counted from the back."""
    box, blank = piece_box(spec.size, spec.place), spec.blank
    across, up = from_picture(spec)
    x, y = box.middle[0] + across, box.middle[1] + up
    return DrawnBlank(
        left=x - blank.width_mm / 2,
        top=spec.machine.bed_height_mm - y - blank.height_mm / 2,
        width=blank.width_mm,
        height=blank.height_mm,
        edge=path_data(
            rings(polygons(translate(lying_face(spec), x, y)).geoms),
            deep_mm=spec.machine.bed_height_mm,
            closed=True,
        ),
        ground=spec.substrate.ground,
    )


def blank_on_bed(spec: JobSpec) -> Box:
    """Return the upright box round the blank as it lies, turned and all."""
    blank, deep = drawn_blank(spec), spec.machine.bed_height_mm
    middle = piece_box(spec.size, spec.place).middle
    corners = [
        turned_about(x, deep - y, middle, spec.place.turn_deg)
        for x in (blank.left, blank.left + blank.width)
        for y in (blank.top, blank.top + blank.height)
    ]
    xs, ys = zip(*corners, strict=True)
    return Box(min(xs), min(ys), max(xs), max(ys))
