"""How a blank is drawn on the shelf."""

from dataclasses import dataclass

from engraving.geometry.polygons import area_path
from engraving.jobspec import BlankPart
from engraving.place import engravable_area, face_area
from workshop.shelf.models import Substrate


@dataclass(frozen=True)
class BlankDrawing:
    """A drawing of a blank in mm from its middle: SVG path data of face and area."""

    part: BlankPart
    ground: str
    room: float
    left: float
    top: float
    face: str
    area: str


def drawn_blank(part: BlankPart, ground: str = "#d9b88a") -> BlankDrawing:
    """Return what a drawing of a blank needs, mm from its middle."""
    return BlankDrawing(
        part=part,
        ground=ground,
        room=max(part.width_mm, part.height_mm) * 0.08,
        left=-part.width_mm / 2,
        top=-part.height_mm / 2,
        face=area_path(face_area(part)),
        area=area_path(engravable_area(part)),
    )


def ground_of(substrate: Substrate | None) -> str:
    """Return the untouched colour of a substrate, that of paper for none."""
    return str(substrate.part["ground"]) if substrate else "#e6decd"
