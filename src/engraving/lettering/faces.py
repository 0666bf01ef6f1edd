"""The fonts that ship with the program, and any other as a face to set text with.

Shaping and outlines come from HarfBuzz, which is part of the program, so a
line of text looks the same on every computer.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from types import MappingProxyType

import uharfbuzz as hb

from engraving.errors import ArtworkError
from engraving.jobspec.job_file import LARGEST_FONT

_FOLDER = Path(__file__).parent / "fonts"
_CAP_OF_EM = 0.7
_KNOWN_STARTS = (b"\x00\x01\x00\x00", b"OTTO", b"true", b"ttcf")


@dataclass(frozen=True)
class ShippedFont:
    """A font that ships with the program, under the SIL Open Font License."""

    name: str
    label: str
    kind: str
    file: str

    @property
    def licence(self) -> str:
        """The text of its licence."""
        family = self.file.rsplit("-", 1)[0]
        return (_FOLDER / f"{family}-LICENSE.txt").read_text(encoding="utf-8")

    def read(self) -> bytes:
        """Return the font file."""
        return (_FOLDER / self.file).read_bytes()


FONTS: Mapping[str, ShippedFont] = MappingProxyType(
    {
        font.name: font
        for font in (
            ShippedFont("archivo", "Archivo", "sans serif", "archivo-600.ttf"),
            ShippedFont("besley", "Besley", "serif", "besley-600.ttf"),
            ShippedFont("cinzel", "Cinzel", "Roman capitals", "cinzel-600.ttf"),
            ShippedFont("dancing-script", "Dancing Script", "script",
                        "dancing-script-700.ttf"),
            ShippedFont("saira-stencil-one", "Saira Stencil One", "stencil",
                 "saira-stencil-one-400.ttf"),
        )
    }
)  # fmt: skip
"""Every shipped font by name."""


@dataclass(frozen=True)
class Face:
    """A font opened for setting text."""

    font: hb.Font
    units: int

    @cached_property
    def cap_units(self) -> float:
        """Height of a capital H in font units."""
        glyph = self.font.get_nominal_glyph(ord("H"))
        extents = self.font.get_glyph_extents(glyph) if glyph else None
        if extents is None or extents.y_bearing <= 0:
            return _CAP_OF_EM * self.units
        return float(extents.y_bearing)

    def lacks(self, text: str) -> str:
        """Return the characters of a text that the font does not have."""
        wanted = dict.fromkeys(text.replace(" ", ""))
        return "".join(one for one in wanted if not self.font.get_nominal_glyph(ord(one)))


def open_face(data: bytes) -> Face:
    """Return a face from a TrueType or OpenType file.

    Raises
    ------
    ArtworkError
        When it is no such font.
    """
    if len(data) > LARGEST_FONT:
        raise ArtworkError(
            f"The font is larger than {LARGEST_FONT // 2**20} MB; use a smaller one."
        )
    fault = ArtworkError("This file is not a font that can be read; use TTF or OTF.")
    if not data.startswith(_KNOWN_STARTS):
        raise fault
    face = hb.Face(hb.Blob(data))
    font = hb.Font(face)
    if face.glyph_count < 2 or not font.get_nominal_glyph(ord("H")):
        raise fault
    return Face(font, face.upem)
