"""How a blank and its picture lie on the bed."""

from dataclasses import dataclass

from shapely.affinity import translate

from engraving.geometry.polygons import area_path
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


def _upright(spec: JobSpec) -> Box:
    """Return the box round the blank as it lies before it is turned."""
    across, up = from_picture(spec)
    x, y = piece_box(spec.size, spec.place).middle
    wide, high = spec.blank.width_mm / 2, spec.blank.height_mm / 2
    return Box(x + across - wide, y + up - high, x + across + wide, y + up + high)


def drawn_blank(spec: JobSpec) -> DrawnBlank:
    """Return what draws a blank on the bed, y counted from the back."""
    box, deep = _upright(spec), spec.machine.bed_height_mm
    return DrawnBlank(
        left=box.left,
        top=deep - box.back,
        width=box.width,
        height=box.height,
        edge=area_path(translate(lying_face(spec), *box.middle), deep_mm=deep),
        ground=spec.substrate.ground,
    )


def blank_on_bed(spec: JobSpec) -> Box:
    """Return the upright box round the blank as it lies, turned and all."""
    box = _upright(spec)
    middle = piece_box(spec.size, spec.place).middle
    corners = [
        turned_about(x, y, middle, spec.place.turn_deg)
        for x in (box.left, box.right)
        for y in (box.front, box.back)
    ]
    xs, ys = zip(*corners, strict=True)
    return Box(min(xs), min(ys), max(xs), max(ys))
