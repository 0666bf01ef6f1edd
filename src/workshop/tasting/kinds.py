"""How each kind of file is read: as the program does afterwards."""

from collections.abc import Callable
from pathlib import Path

from engraving.artwork.reading import open_picture
from engraving.drawing import read_dxf_paths, read_svg_paths
from engraving.jobspec.edits import TextLine
from engraving.lettering import line_box_mm, open_face

_LETTERS = TextLine(text="Hamburg 1899", cap_mm=5)


def _set(path: Path) -> None:
    line_box_mm(open_face(path.read_bytes()), _LETTERS)


READERS: dict[str, Callable[[Path], object]] = {
    "picture": open_picture,
    "font": _set,
    "svg": lambda path: read_svg_paths(path.read_bytes()),
    "dxf": lambda path: read_dxf_paths(path.read_bytes()),
}
