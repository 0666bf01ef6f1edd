"""Reading pictures and bringing them onto the burn grid."""

from engraving.artwork.grid import cut_out, place_on_grid
from engraving.artwork.reading import Artwork, read_artwork

__all__ = ["Artwork", "cut_out", "place_on_grid", "read_artwork"]
