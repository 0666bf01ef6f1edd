"""Outlines in and out of DXF files, by ezdxf; curves become short lines."""

import io
from collections.abc import Iterator, Mapping, Sequence

import numpy as np
from ezdxf import disassemble, units
from ezdxf.document import Drawing
from ezdxf.enums import InsertUnits
from ezdxf.filemanagement import new, read
from ezdxf.lldxf.const import DXFError
from ezdxf.path import make_path
from numpy.typing import NDArray

from engraving.errors import ArtworkError
from engraving.outline.drawing import Points, drawing_of
from engraving.spec import DrawingPart

LARGEST_DXF = 8 * 1024 * 1024
_MOST_ENTITIES = 5000
_NEAR_MM = 0.02
_KINDS = {
    "LINE", "LWPOLYLINE", "POLYLINE", "CIRCLE", "ARC", "ELLIPSE", "SPLINE",
}  # fmt: skip


def read_dxf(name: str, data: bytes) -> DrawingPart:
    """Return the outlines of a DXF file; without units its numbers are mm.

    Raises
    ------
    ArtworkError
        When it is no text DXF file, or holds no lines.
    """
    if len(data) > LARGEST_DXF:
        raise ArtworkError(f"The drawing is larger than {LARGEST_DXF // 2**20} MB.")
    try:
        drawing = read(io.StringIO(data.decode("utf-8", errors="replace")))
        paths = list(_paths(drawing))
    except (DXFError, ValueError, TypeError, KeyError, IndexError, AttributeError):
        raise ArtworkError("This file cannot be read as a text DXF drawing.") from None
    except (ArithmeticError, RecursionError):
        raise ArtworkError("The drawing's shapes cannot be read; save it again.") from None
    return drawing_of(name, paths)


def _paths(drawing: Drawing) -> Iterator[tuple[Points, bool]]:
    told = InsertUnits(drawing.units or units.MM)
    mm = units.conversion_factor(told, InsertUnits.Millimeters)
    entities = disassemble.recursive_decompose(drawing.modelspace())
    for count, entity in enumerate(entities):
        if count > _MOST_ENTITIES:
            raise ArtworkError(f"The drawing has more than {_MOST_ENTITIES} parts.")
        if entity.dxftype() not in _KINDS:
            continue
        path = make_path(entity)
        points = [(p.x * mm, -p.y * mm) for p in path.flattening(_NEAR_MM / mm)]
        if len(points) >= 2:
            closed = path.is_closed and len(points) > 3
            yield (points[:-1] if closed else points), closed


def write_dxf(layers: Mapping[str, Sequence[NDArray[np.float64]]]) -> bytes:
    """Return a DXF drawing (R2010) in mm, a layer for each group of lines.

    Parameters
    ----------
    layers : mapping
        Name to lines, arrays of shape (n, 2) in mm, y away from the operator.
    """
    drawing = new("R2010", units=units.MM)
    space = drawing.modelspace()
    for name, lines in layers.items():
        drawing.layers.add(name)
        for line in lines:
            points = [(float(x), float(y)) for x, y in line]
            closed = len(points) > 3 and points[0] == points[-1]
            space.add_lwpolyline(
                points[:-1] if closed else points, close=closed, dxfattribs={"layer": name}
            )
    stream = io.StringIO()
    drawing.write(stream)
    return stream.getvalue().encode()
