"""Reading pictures, editing them, and bringing them onto the burn grid."""

from engraving.artwork.grid import cut_out, place_on_grid
from engraving.artwork.reading import Artwork, read_artwork
from engraving.artwork.source import InMemorySource, Source

__all__ = [
    "Artwork",
    "InMemorySource",
    "Source",
    "cut_out",
    "place_on_grid",
    "read_artwork",
]
