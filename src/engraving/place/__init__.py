"""Where a piece lies on the bed, and what the machine calls that place."""

from engraving.place.bed import (
    ANCHORS,
    Box,
    anchor_point,
    centred,
    from_anchor,
    inside_bed,
    piece_box,
    run_up_box,
)
from engraving.place.blank import engravable_box, engravable_mask, face_mask
from engraving.place.frame import Frame, frame_of
from engraving.place.outline import read_outline

__all__ = [
    "ANCHORS",
    "Box",
    "Frame",
    "anchor_point",
    "centred",
    "engravable_box",
    "engravable_mask",
    "face_mask",
    "frame_of",
    "from_anchor",
    "inside_bed",
    "piece_box",
    "read_outline",
    "run_up_box",
]
