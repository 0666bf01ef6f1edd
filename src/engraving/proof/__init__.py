"""The predicted look of the finished piece, from the real dots."""

from engraving.proof.colours import Palette, dot_palette, substrate_palette
from engraving.proof.spot import SpotModel, spot_model
from engraving.proof.view import Window, proof_png, shown_dots, shown_marks, shown_tones

__all__ = [
    "Palette",
    "SpotModel",
    "Window",
    "dot_palette",
    "proof_png",
    "shown_dots",
    "shown_marks",
    "shown_tones",
    "spot_model",
    "substrate_palette",
]
