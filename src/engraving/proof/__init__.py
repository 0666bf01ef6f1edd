"""The predicted look of the finished piece, from the real dots."""

from engraving.proof.colours import (
    Palette,
    dot_palette,
    shown_colours,
    substrate_palette,
)
from engraving.proof.section import crossed
from engraving.proof.spot import MaterialResponse, SpotModel, spot_model
from engraving.proof.texture import (
    Place,
    faded,
    place_on_blank,
    softness,
    texture,
    textured,
)
from engraving.proof.view import (
    TwoTone,
    Window,
    framed_dots,
    near_dots,
    shown_dots,
    shown_marks,
    shown_tones,
    write_proof_png,
)

__all__ = [
    "MaterialResponse",
    "Palette",
    "Place",
    "SpotModel",
    "TwoTone",
    "Window",
    "crossed",
    "dot_palette",
    "faded",
    "framed_dots",
    "near_dots",
    "place_on_blank",
    "shown_colours",
    "shown_dots",
    "shown_marks",
    "shown_tones",
    "softness",
    "spot_model",
    "substrate_palette",
    "texture",
    "textured",
    "write_proof_png",
]
