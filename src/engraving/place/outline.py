"""A blank's free outline from an SVG drawing.

SVG 2 (W3C); geometry by svgelements. The file is first read by a parser that
refuses entities and outside references, then stripped to its shapes.
"""

import io
import math
from typing import Any

import svgelements
from defusedxml import DefusedXmlException, ElementTree

from engraving.errors import ArtworkError

LARGEST_SVG = 2 * 1024 * 1024
_MOST_POINTS = 5000
_MOST_SHAPES = 2000
_MOST_RINGS = 200
_STEP_MM = 0.2
_FORBIDDEN = ("script", "foreignobject", "image", "iframe", "use", "animate", "set")
_PX_PER_INCH = 96.0
_MM = 25.4 / _PX_PER_INCH

Rings = tuple[tuple[tuple[float, float], ...], ...]


def read_outline(data: bytes) -> tuple[Rings, float, float]:
    """Return the closed shapes of a drawing, centred, and its width and height.

    Parameters
    ----------
    data : bytes
        An SVG file; without units its numbers are CSS pixels of 1/96 in.

    Returns
    -------
    rings : tuple
        Points in mm from the middle, y towards the operator.
    width_mm, height_mm : float

    Raises
    ------
    ArtworkError
        When it is no drawing, holds anything but shapes, or no closed shape.
    """
    rings = [points for points, closed in svg_paths(data) if closed]
    if not rings:
        raise ArtworkError("The drawing has no closed shape; draw the blank's edge as one.")
    return _centred(rings)


def svg_paths(data: bytes) -> list[tuple[list[tuple[float, float]], bool]]:
    """Return the points in mm of every path of a drawing, and whether it is closed.

    Raises
    ------
    ArtworkError
        When it is no drawing, or holds anything but shapes.
    """
    if len(data) > LARGEST_SVG:
        raise ArtworkError(f"The drawing is larger than {LARGEST_SVG // 2**20} MB.")
    _refuse_foreign(data)
    try:
        drawing = svgelements.SVG.parse(io.BytesIO(data), ppi=_PX_PER_INCH, reify=True)
        shapes = [
            item for item in drawing.elements() if isinstance(item, svgelements.Shape)
        ]
        return [path for shape in shapes[:_MOST_SHAPES] for path in _paths(shape)]
    except (ValueError, TypeError, AttributeError, KeyError, IndexError, ZeroDivisionError):
        raise ArtworkError("The drawing's shapes cannot be read; save it again.") from None


def _refuse_foreign(data: bytes) -> None:
    """Hold the file against what a drawing of an edge has no need of."""
    try:
        root = ElementTree.fromstring(data, forbid_dtd=True)
    except DefusedXmlException:
        raise ArtworkError(
            "The drawing defines entities or refers to other files; "
            "save it as a plain SVG of shapes."
        ) from None
    except ElementTree.ParseError:
        raise ArtworkError("This file is no SVG drawing.") from None
    if _plain(root.tag) != "svg":
        raise ArtworkError("This file is no SVG drawing.")
    for element in root.iter():
        name = _plain(element.tag)
        if name in _FORBIDDEN:
            raise ArtworkError(
                f"The drawing holds a “{name}”; save it as a plain SVG of shapes."
            )
        if name == "style" and _reaches_out(element.text or ""):
            raise ArtworkError("The drawing refers to something outside its shapes.")
        for key, value in element.attrib.items():
            if _plain(key).startswith("on") or (_plain(key) == "href"):
                raise ArtworkError(
                    "The drawing holds a script or a reference; "
                    "save it as a plain SVG of shapes."
                )
            if _reaches_out(value):
                raise ArtworkError("The drawing refers to something outside its shapes.")


def _reaches_out(text: str) -> bool:
    return "url(" in text.lower() or "@import" in text.lower()


def _plain(name: Any) -> str:
    return str(name).rsplit("}", 1)[-1].lower()


def _paths(shape: Any) -> list[tuple[list[tuple[float, float]], bool]]:
    """Return a shape's subpaths as points in mm."""
    found = []
    for piece in svgelements.Path(shape).as_subpaths():
        path = svgelements.Path(piece)
        ends = path.first_point, path.current_point
        closed = isinstance(path[-1], svgelements.Close) or (
            None not in ends and abs(ends[0] - ends[1]) * _MM < 0.05
        )
        points = _points(path)
        if not closed and ends[1] is not None:
            points.append((ends[1].x * _MM, ends[1].y * _MM))
        closed = closed and len(points) >= 3
        if len(points) >= 2:
            found.append((points, closed))
    return found


def _points(path: Any) -> list[tuple[float, float]]:
    ring: list[tuple[float, float]] = []
    for segment in path:
        if isinstance(segment, svgelements.Move) or segment.end is None:
            continue
        if isinstance(segment, svgelements.Line | svgelements.Close):
            steps = 1
        else:
            length = segment.length(error=1e-3) * _MM
            steps = min(max(math.ceil(length / _STEP_MM), 8), 400)
        for i in range(steps):
            point = segment.point(i / steps)
            ring.append((point.x * _MM, point.y * _MM))
    return ring[:_MOST_POINTS]


def _centred(rings: list[list[tuple[float, float]]]) -> tuple[Rings, float, float]:
    xs = [x for ring in rings for x, _ in ring]
    ys = [y for ring in rings for _, y in ring]
    if not all(math.isfinite(value) for value in xs + ys):
        raise ArtworkError("The drawing's numbers are not finite; save it again.")
    if len(rings) > _MOST_RINGS:
        raise ArtworkError(f"The drawing has {len(rings)} closed shapes; a blank has few.")
    width, height = max(xs) - min(xs), max(ys) - min(ys)
    if not (0.1 <= width <= 3000 and 0.1 <= height <= 3000):
        raise ArtworkError(
            f"The drawing is {width:.2f} × {height:.2f} mm; "
            "give its width and height in mm."
        )
    cx, cy = (max(xs) + min(xs)) / 2, (max(ys) + min(ys)) / 2
    moved = tuple(
        tuple((round(x - cx, 4), round(y - cy, 4)) for x, y in ring) for ring in rings
    )
    return moved, width, height
