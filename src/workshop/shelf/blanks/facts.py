"""How a blank is drawn on the shelf."""

from dataclasses import dataclass

from shapely import Geometry

from engraving.geometry.polygons import path_data, polygons, rings
from engraving.jobspec import BlankPart
from engraving.place import engravable_area, face_area
from workshop.shelf.models import Substrate


@dataclass(frozen=True)
class DrawnBlank:
    """A drawing of a blank in mm from its middle: SVG path data of face and area."""

    part: BlankPart
    ground: str
    room: float
    left: float
    top: float
    face: str
    area: str


def drawn_blank(part: BlankPart, ground: str = "#d9b88a") -> DrawnBlank:
    """Return what a drawing of a blank needs, mm from its middle."""
    return DrawnBlank(
        part=part,
        ground=ground,
        room=max(part.width_mm, part.height_mm) * 0.08,
        left=-part.width_mm / 2,
        top=-part.height_mm / 2,
        face=_edge(face_area(part)),
        area=_edge(engravable_area(part)),
    )


def _edge(area: Geometry) -> str:
    return path_data(rings(polygons(area).geoms), closed=True)


def ground_of(substrate: Substrate | None) -> str:
    """Return the untouched colour of a substrate, that of paper for none."""
    return str(substrate.part["ground"]) if substrate else "#e6decd"
