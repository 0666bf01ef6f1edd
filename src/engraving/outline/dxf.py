"""Outlines in and out of DXF files, by ezdxf; curves become short lines."""

import io
from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from engraving.drawing import drawing_of, read_dxf_paths
from engraving.jobspec import DrawingPart


def read_dxf(name: str, data: bytes) -> DrawingPart:
    """Return the outlines of a DXF file; without units its numbers are mm.

    Raises
    ------
    ArtworkError
        When it is no text DXF file, or holds no lines.
    """
    return drawing_of(name, read_dxf_paths(data))


def write_dxf(layers: Mapping[str, Sequence[NDArray[np.float64]]]) -> bytes:
    """Return a DXF drawing (R2010) in mm, a layer for each group of lines.

    Parameters
    ----------
    layers : mapping
        Name to lines, arrays of shape (n, 2) in mm, y away from the operator.
    """
    import ezdxf  # noqa: PLC0415 (a fifth of a second at every start, for few files)

    drawing = ezdxf.filemanagement.new("R2010", units=ezdxf.units.MM)
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
