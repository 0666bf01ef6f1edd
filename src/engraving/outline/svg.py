"""Outlines in and out of SVG files (SVG 2, W3C), at their true size."""

from collections.abc import Iterable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from engraving.drawing import drawing_of, read_svg_paths
from engraving.jobspec import DrawingPart


def read_svg(name: str, data: bytes) -> DrawingPart:
    """Return the outlines of an SVG file.

    Raises
    ------
    ArtworkError
        When it is no drawing, or holds anything but shapes.
    """
    return drawing_of(name, read_svg_paths(data))


def write_svg(layers: Mapping[str, Sequence[NDArray[np.float64]]]) -> str:
    """Return an SVG drawing in mm, a group for each layer.

    Parameters
    ----------
    layers : mapping
        Name to lines, arrays of shape (n, 2) in mm, y away from the operator.
    """
    points = [point for lines in layers.values() for line in lines for point in line]
    left, low = (min((point[axis] for point in points), default=0.0) for axis in (0, 1))
    right, high = (max((point[axis] for point in points), default=1.0) for axis in (0, 1))
    wide, deep = right - left, high - low
    groups = "\n".join(
        f'  <g id="{name}" fill="none" stroke="black" stroke-width="0.1">\n'
        + "\n".join(f'    <path d="{_data(line, left, high)}"/>' for line in lines)
        + "\n  </g>"
        for name, lines in layers.items()
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:.4f}mm" '
        f'height="{deep:.4f}mm" viewBox="0 0 {wide:.4f} {deep:.4f}">\n{groups}\n</svg>\n'
    )


def _data(line: Iterable[Sequence[float]], left: float, high: float) -> str:
    points = [f"{x - left:.4f} {high - y:.4f}" for x, y in line]
    closed = len(points) > 3 and points[0] == points[-1]
    return "M" + "L".join(points[:-1] if closed else points) + ("Z" if closed else "")
