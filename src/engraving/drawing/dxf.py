"""Lines of a DXF drawing at their true size, by ezdxf; curves become short lines."""

import io
from collections import Counter
from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from engraving.drawing.paths import FINE_MM, Drawn, DrawnPath, without_repeats
from engraving.errors import ArtworkError

if TYPE_CHECKING:
    from ezdxf.document import Drawing
    from ezdxf.entities.dxfentity import DXFEntity

LARGEST_DXF = 8 * 1024 * 1024
_KINDS = {
    "LINE", "LWPOLYLINE", "POLYLINE", "CIRCLE", "ARC", "ELLIPSE", "SPLINE", "HELIX",
}  # fmt: skip
_WORDS = {"TEXT": "text", "MTEXT": "text", "DIMENSION": "dimension", "POINT": "point"}
_FOOT = 1200 / 3937 * 1000
_MM = {
    0: 1.0, 1: 25.4, 2: 304.8, 3: 1609344.0, 4: 1.0, 5: 10.0, 6: 1000.0, 7: 1e6,
    8: 25.4e-6, 9: 0.0254, 10: 914.4, 11: 1e-7, 12: 1e-6, 13: 1e-3, 14: 100.0,
    15: 1e4, 16: 1e5, 21: _FOOT, 22: _FOOT / 12, 23: _FOOT * 3, 24: _FOOT * 5280,
}  # fmt: skip
"""mm in each unit of $INSUNITS (DXF reference); 21 to 24 are those of the US survey."""
MOST_COPIED = 10_000
"""Parts that come from blocks: blocks of blocks grow without end in a small file."""
_FAULTS = (
    ValueError, TypeError, KeyError, IndexError, AttributeError, ArithmeticError,
    RecursionError, AssertionError, StopIteration, EOFError,
)  # fmt: skip


def read_dxf_paths(data: bytes) -> Drawn:
    """Return the lines of a text DXF file; without units its numbers are mm.

    What lies on layers that are off or frozen, and what is invisible, is left out.

    Raises
    ------
    ArtworkError
        When it is no text DXF file.
    """
    if len(data) > LARGEST_DXF:
        raise ArtworkError(f"The drawing is larger than {LARGEST_DXF // 2**20} MB.")
    # Loaded where it is wanted: a fifth of a second at every start, for few files.
    from ezdxf.filemanagement import read  # noqa: PLC0415
    from ezdxf.lldxf.const import DXFError  # noqa: PLC0415

    try:
        drawing = read(io.StringIO(_text(data), newline=None))
        left_out: Counter[str] = Counter()
        paths = tuple(_paths(drawing, left_out))
    except (DXFError, *_FAULTS):
        raise ArtworkError("This file cannot be read as a text DXF drawing.") from None
    return Drawn(paths, left_out)


def _text(data: bytes) -> str:
    """Return the file's text with plain line ends, whatever system wrote it."""
    text = data.decode("utf-8", errors="replace").removeprefix("\ufeff")
    return text.replace("\r\n", "\n").replace("\r", "\n")


def _paths(drawing: "Drawing", left_out: Counter[str]) -> Iterator[DrawnPath]:
    from ezdxf import disassemble  # noqa: PLC0415 (as above)

    mm = _MM.get(int(drawing.units or 0))
    if mm is None:
        raise ArtworkError("The drawing's unit of length is not known; save it in mm.")
    number = copied = 0
    for top in drawing.modelspace():
        hidden = _why_hidden(drawing, top)
        if hidden:
            left_out[hidden] += 1
            continue
        for entity in disassemble.recursive_decompose([top]):
            copied += top.dxftype() == "INSERT"
            if copied > MOST_COPIED:
                raise ArtworkError(
                    "The drawing repeats its blocks so often that it has more than "
                    f"{MOST_COPIED} parts; leave some out, or draw them once."
                )
            hidden = _why_hidden(drawing, entity)
            kind = entity.dxftype()
            if hidden or kind not in _KINDS:
                left_out[hidden or _WORDS.get(kind, kind.lower())] += 1
                continue
            points, closed = _line(entity, mm)
            if len(points) >= 2:
                yield DrawnPath(points, closed, number)
                number += 1


def _line(entity: "DXFEntity", mm: float) -> tuple[NDArray[np.float64], bool]:
    from ezdxf.path import make_path  # noqa: PLC0415 (as above)

    path = make_path(entity)
    fine = [(p.x * mm, p.y * mm) for p in path.flattening(FINE_MM / mm)]
    points = without_repeats(np.asarray(fine, np.float64).reshape(-1, 2))
    closed = bool(path.is_closed) and len(points) > 3
    return (points[:-1] if closed else points), closed


def _why_hidden(drawing: "Drawing", entity: "DXFEntity") -> str:
    if entity.dxf.get("invisible", 0):
        return "invisible"
    name = entity.dxf.get("layer", "0")
    if name in drawing.layers:
        layer = drawing.layers.get(name)
        if layer.is_off() or layer.is_frozen():
            return "on a hidden layer"
    return ""
