"""Boxes on the bed, seen by the operator: x to the right, y away.

Lengths in mm from the bed's front left corner.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

from engraving.errors import ChoiceError
from engraving.geometry.rotation import turned_about
from engraving.jobspec import MachinePart, PlacePart, SizePart

ANCHORS: Mapping[str, tuple[float, float]] = MappingProxyType(
    {
        f"{row}-{column}": (across, up)
        for row, up in (("back", 1.0), ("middle", 0.5), ("front", 0.0))
        for column, across in (("left", 0.0), ("centre", 0.5), ("right", 1.0))
    }
)
"""Nine points of a box as shares of its width and height."""

_HAIR_MM = 1e-6


@dataclass(frozen=True)
class Box:
    """An upright rectangle in mm."""

    left: float
    front: float
    right: float
    back: float

    @property
    def width(self) -> float:
        """Extent in x."""
        return self.right - self.left

    @property
    def height(self) -> float:
        """Extent in y."""
        return self.back - self.front

    @property
    def middle(self) -> tuple[float, float]:
        """Its middle."""
        return (self.left + self.right) / 2, (self.front + self.back) / 2

    def grown(self, x_mm: float, y_mm: float = 0.0) -> "Box":
        """Return the box with `x_mm` added left and right, `y_mm` front and back."""
        return Box(self.left - x_mm, self.front - y_mm, self.right + x_mm, self.back + y_mm)

    def around(self, other: "Box") -> "Box":
        """Return the smallest box that holds this one and another."""
        return Box(
            min(self.left, other.left),
            min(self.front, other.front),
            max(self.right, other.right),
            max(self.back, other.back),
        )


def piece_box(size: SizePart, place: PlacePart) -> Box:
    """Return the artwork's rectangle on the bed."""
    return Box(
        place.x_mm,
        place.y_mm,
        place.x_mm + size.width_mm,
        place.y_mm + size.height_mm,
    )


def reach_box(
    size: SizePart, place: PlacePart, along_mm: float = 0.0, up_mm: float = 0.0
) -> Box:
    """Return the upright box round the artwork's rectangle as it lies, turned and all.

    `along_mm` and `up_mm` are added beside and before and behind the rectangle
    first: the run-up turns with its rows.
    """
    box = piece_box(size, place)
    grown = box.grown(along_mm, up_mm)
    if not place.turn_deg:
        return grown
    corners = [
        turned_about(x, y, box.middle, place.turn_deg)
        for x in (grown.left, grown.right)
        for y in (grown.front, grown.back)
    ]
    xs, ys = zip(*corners, strict=True)
    return Box(min(xs), min(ys), max(xs), max(ys))


def anchor_of(size: SizePart, place: PlacePart, anchor: str) -> tuple[float, float]:
    """Return where one of the nine points of the artwork lies on the bed, turned and all.

    Raises
    ------
    ChoiceError
        When there is no such anchor.
    """
    box = piece_box(size, place)
    return turned_about(*anchor_point(box, anchor), box.middle, place.turn_deg)


def inside_bed(box: Box, machine: MachinePart) -> bool:
    """Return whether a box lies on the bed, its edge included."""
    return (
        box.left >= -_HAIR_MM
        and box.front >= -_HAIR_MM
        and box.right <= machine.bed_width_mm + _HAIR_MM
        and box.back <= machine.bed_height_mm + _HAIR_MM
    )


def anchor_point(box: Box, anchor: str) -> tuple[float, float]:
    """Return x, y of one of the nine points of a box.

    Raises
    ------
    ChoiceError
        When there is no such anchor.
    """
    across, up = _shares(anchor)
    return box.left + across * box.width, box.front + up * box.height


def from_anchor(
    size: SizePart, anchor: str, x_mm: float, y_mm: float, turn_deg: float = 0.0
) -> tuple[float, float]:
    """Return the lower left corner, unturned, of a piece whose anchor lies at x, y."""
    across, up = _shares(anchor)
    half = size.width_mm / 2, size.height_mm / 2
    x, y = turned_about(across * size.width_mm, up * size.height_mm, half, turn_deg)
    return x_mm - x, y_mm - y


def centred(size: SizePart, machine: MachinePart) -> tuple[float, float]:
    """Return the lower left corner of a piece in the middle of the bed."""
    return (
        (machine.bed_width_mm - size.width_mm) / 2,
        (machine.bed_height_mm - size.height_mm) / 2,
    )


def _shares(anchor: str) -> tuple[float, float]:
    try:
        return ANCHORS[anchor]
    except KeyError:
        raise ChoiceError("anchor", anchor, ANCHORS, field="anchor") from None
