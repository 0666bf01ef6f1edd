"""Where a job's picture and fonts come from."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from engraving.artwork.depth import DepthPicture, depth_of, read_depth
from engraving.artwork.likeness import likeness_of
from engraving.artwork.reading import Artwork, open_picture, read_artwork
from engraving.errors import ArtworkError
from engraving.jobspec import ArtworkPart
from engraving.lettering import FONTS, Face, open_face


def no_font(name: str) -> bytes:
    """Say that a font is not at hand.

    Raises
    ------
    ArtworkError
        Always.
    """
    raise ArtworkError(f"The font “{name[:12]}” is not at hand; choose another one.")


class Source:
    """Reads pictures and fonts.

    Parameters
    ----------
    picture : callable
        Returns the file of an `ArtworkPart`, as a path or its bytes.
    font : callable
        Returns the file of a font that does not ship with the program.
    """

    def __init__(
        self,
        picture: Callable[[ArtworkPart], Path | bytes],
        font: Callable[[str], bytes] = no_font,
    ) -> None:
        self._picture = picture
        self._font = font

    def artwork(self, part: ArtworkPart, *, colour: bool) -> Artwork:
        """Return the page a job uses."""
        return read_artwork(self._picture(part), part.page, colour=colour)

    def likeness(self, part: ArtworkPart) -> NDArray[np.uint8]:
        """Return RGBA codes of the whole upright page, smaller where it is large."""
        return open_picture(self._picture(part), part.page).likeness()

    def depth(self, part: ArtworkPart) -> DepthPicture:
        """Return the page a job uses as depth."""
        found = self._picture(part)
        return read_depth(
            found.read_bytes() if isinstance(found, Path) else found, part.page
        )

    def face(self, name: str) -> Face:
        """Return a font, shipped or uploaded."""
        data = FONTS[name].read() if name in FONTS else self._font(name)
        return open_face(data)


class InMemorySource(Source):
    """A source that holds one picture."""

    def __init__(
        self,
        artwork: Artwork,
        font: Callable[[str], bytes] = no_font,
        depth: DepthPicture | None = None,
    ) -> None:
        super().__init__(lambda _: b"", font)
        self._artwork = artwork
        self._depth = depth

    def depth(self, part: ArtworkPart) -> DepthPicture:  # noqa: ARG002
        """Return the picture as depth."""
        return self._depth or depth_of(self._artwork)

    def artwork(self, part: ArtworkPart, *, colour: bool) -> Artwork:  # noqa: ARG002
        """Return the picture."""
        return self._artwork

    def likeness(self, part: ArtworkPart) -> NDArray[np.uint8]:  # noqa: ARG002
        """Return the picture as RGBA codes."""
        found = self._artwork
        return likeness_of(found.gray, found.colour, found.alpha)
