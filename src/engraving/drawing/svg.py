"""Lines of an SVG drawing at their true size (SVG 2, W3C); geometry by svgelements.

The file is first read by a parser that refuses entities and outside references,
then stripped to what is drawn; only that is handed on.
"""

import io
import math
import re
from collections import Counter
from collections.abc import Iterator
from typing import Any
from xml.etree.ElementTree import Element, tostring

import numpy as np
import svgelements
from defusedxml import DefusedXmlException, ElementTree

from engraving.drawing.flatten import flattened
from engraving.drawing.nested import as_group
from engraving.drawing.paths import Drawn, DrawnPath, without_repeats
from engraving.errors import ArtworkError

LARGEST_SVG = 8 * 1024 * 1024
_FORBIDDEN = ("script", "foreignobject", "image", "iframe", "use", "animate", "set")
_NEVER_DRAWN = {
    "defs": "in a store of definitions", "symbol": "in a symbol", "mask": "in a mask",
    "marker": "in a marker", "clippath": "in a clipping path", "pattern": "in a pattern",
}  # fmt: skip
_SHAPES = {
    "path", "rect", "circle", "ellipse", "line", "polyline", "polygon",
}  # fmt: skip
_LETTERS = ("text", "tspan", "textpath")
_HIDDEN = "hidden"
# The standard's own document type only; what defines entities or lies elsewhere is refused.
_DOCTYPE = re.compile(
    rb"<!DOCTYPE\s+svg\s+PUBLIC\s+[\"']-//W3C//DTD SVG 1\.[01](?: Tiny| Basic)?//EN[\"']"
    rb"\s+[\"']https?://www\.w3\.org/[\w./-]*[\"']\s*>"
)
_PX_PER_INCH = 96.0
_MM = 25.4 / _PX_PER_INCH
_SAME_MM = 1e-6
_FAULTS = (
    ValueError, TypeError, AttributeError, KeyError, IndexError, ArithmeticError,
    RecursionError, AssertionError,
)  # fmt: skip


def read_svg_paths(data: bytes) -> Drawn:
    """Return the lines of an SVG file; without units its numbers are px of 1/96 in.

    Raises
    ------
    ArtworkError
        When it is no drawing, or holds anything but shapes.
    """
    if len(data) > LARGEST_SVG:
        raise ArtworkError(f"The drawing is larger than {LARGEST_SVG // 2**20} MB.")
    root = _parsed(data)
    _refuse_foreign(root)
    left_out: Counter[str] = Counter()
    try:
        as_group(root)
        _strip(root, left_out)
        drawing = svgelements.SVG.parse(
            io.BytesIO(tostring(root)), ppi=_PX_PER_INCH, reify=False
        )
        shapes = [one for one in drawing.elements() if isinstance(one, svgelements.Shape)]
        gone = sum(_plain(one.tag) in _SHAPES for one in root.iter()) - len(shapes)
        if gone > 0:  # hidden by the style sheet, or without width or height
            left_out[_HIDDEN] += gone
        paths = tuple(
            path
            for number, shape in enumerate(shapes)
            for path in _paths(shape, number, left_out)
        )
    except _FAULTS:
        raise ArtworkError("The drawing's shapes cannot be read; save it again.") from None
    return Drawn(paths, left_out)


def _parsed(data: bytes) -> Element:
    try:
        root = ElementTree.fromstring(_DOCTYPE.sub(b"", data, count=1), forbid_dtd=True)
    except DefusedXmlException:
        raise ArtworkError(
            "The drawing defines entities or refers to other files; "
            "save it as a plain SVG of shapes."
        ) from None
    except (ElementTree.ParseError, ValueError, LookupError):
        raise ArtworkError("This file is no SVG drawing.") from None
    if _plain(root.tag) != "svg":
        raise ArtworkError("This file is no SVG drawing.")
    return root


def _refuse_foreign(root: Element) -> None:
    """Hold the file against what a drawing of lines has no need of."""
    for element in root.iter():
        name = _plain(element.tag)
        if name in _FORBIDDEN:
            raise ArtworkError(
                f"The drawing holds a “{name}”; save it as a plain SVG of shapes."
            )
        if name == "style" and _reaches_out(element.text or ""):
            raise ArtworkError("The drawing refers to something outside its shapes.")
        for key, value in element.attrib.items():
            if _plain(key).startswith("on") or (
                _plain(key) == "href" and not _inside(value, name)
            ):
                raise ArtworkError(
                    "The drawing holds a script or a reference; "
                    "save it as a plain SVG of shapes."
                )
            if _reaches_out(value):
                raise ArtworkError("The drawing refers to something outside its shapes.")


def _inside(value: str, name: str) -> bool:
    """Return whether a reference only takes colours from elsewhere in the file."""
    return value.startswith("#") and name.endswith("gradient")


def _reaches_out(text: str) -> bool:
    low = "".join(text.lower().split())
    return "@import" in low or low.count("url(") != low.count("url(#")


def _plain(name: Any) -> str:
    return str(name).rsplit("}", 1)[-1].lower()


def _strip(parent: Element, left_out: Counter[str]) -> None:
    """Take out what is never drawn; count what shapes went with it."""
    for child in list(parent):
        name = _plain(child.tag)
        why = _NEVER_DRAWN.get(name)
        if why is None and _told(child, "display") == "none":
            why = _HIDDEN
        if why is not None:
            count = sum(_plain(one.tag) in _SHAPES for one in child.iter())
            if count:
                left_out[why] += count
            parent.remove(child)
        elif name in _LETTERS:
            left_out["text, which has no outline"] += 1
            parent.remove(child)
        else:
            _strip(child, left_out)


def _told(element: Element, name: str) -> str:
    """Return a property as the element itself tells it, the style before the attribute."""
    for one in element.get("style", "").split(";"):
        key, _, value = one.partition(":")
        if key.strip().lower() == name:
            return value.split("!")[0].strip().lower()
    return element.get(name, "").strip().lower()


def _paths(shape: Any, number: int, left_out: Counter[str]) -> Iterator[DrawnPath]:
    """Yield a shape's lines, its whole transform applied."""
    told = shape.values
    if told.get("display") == "none" or told.get("visibility") in ("hidden", "collapse"):
        left_out[_HIDDEN] += 1
        return
    nonzero = str(told.get("fill-rule", "nonzero")).strip().lower() != "evenodd"
    # Flattened first and transformed then: an arc that is skewed is no arc of its radii.
    m = shape.transform
    matrix = np.array([[m.a, m.b], [m.c, m.d], [m.e, m.f]], np.float64) * (_MM, -_MM)
    enlarged = float(np.linalg.norm(matrix[:2], 2))
    for piece in svgelements.Path(shape.segments(transformed=False)).as_subpaths():
        flat, closed = flattened(list(svgelements.Path(piece)), enlarged)
        points = np.asarray(flat, np.float64) @ matrix[:2] + matrix[2]
        points = without_repeats(points, _SAME_MM)
        if len(points) > 1 and math.dist(points[0], points[-1]) <= _SAME_MM:
            points, closed = points[:-1], True
        if len(points) >= 2:
            yield DrawnPath(points, closed and len(points) >= 3, number, nonzero)
