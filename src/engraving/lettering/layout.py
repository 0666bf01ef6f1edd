"""A line of text as closed outlines in mm, on its straight or curved baseline."""

from typing import Any

import numpy as np
import uharfbuzz as hb
from numpy.typing import NDArray

from engraving.geometry.rotation import turned_points
from engraving.jobspec import TextLine
from engraving.lettering.faces import Face

Outline = NDArray[np.float64]
"""A closed contour, shape (n, 2), mm, y away from the operator."""
Glyph = list[Outline]

_STEPS = 8
_LONGEST_STEP = 0.04
"""Of straight edges, as a share of the cap height, so that they bend smoothly."""


class _Pen:
    """Collects a glyph's contours, curves as short straight steps."""

    def __init__(self) -> None:
        self.contours: list[list[tuple[float, float]]] = []

    def moveTo(self, to: tuple[float, float]) -> None:  # noqa: N802 (the library's names)
        self.contours.append([to])

    def lineTo(self, to: tuple[float, float]) -> None:  # noqa: N802
        self.contours[-1].append(to)

    def qCurveTo(self, by: tuple[float, float], to: tuple[float, float]) -> None:  # noqa: N802
        line = self.contours[-1]
        start = line[-1]
        for i in range(1, _STEPS + 1):
            t = i / _STEPS
            line.append(_blend(((1 - t) ** 2, start), (2 * t * (1 - t), by), (t * t, to)))

    def curveTo(self, *points: tuple[float, float]) -> None:  # noqa: N802
        line = self.contours[-1]
        first, second, to = points
        start = line[-1]
        for i in range(1, _STEPS + 1):
            t = i / _STEPS
            u = 1 - t
            line.append(
                _blend(
                    (u**3, start),
                    (3 * u * u * t, first),
                    (3 * u * t * t, second),
                    (t**3, to),
                )
            )

    def closePath(self) -> None:  # noqa: N802
        """Contours are closed by their filling."""


def _blend(*terms: tuple[float, tuple[float, float]]) -> tuple[float, float]:
    return sum(w * p[0] for w, p in terms), sum(w * p[1] for w, p in terms)


def _shaped(face: Face, text: str) -> tuple[list[Any], list[Any]]:
    buffer = hb.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    hb.shape(face.font, buffer)
    return list(buffer.glyph_infos), list(buffer.glyph_positions)


def line_length_mm(face: Face, line: TextLine) -> float:
    """Return the length of a line along its baseline."""
    _, positions = _shaped(face, line.text)
    scale = line.cap_mm / face.cap_units
    gaps = max(len(positions) - 1, 0) * line.spacing_mm
    return sum(place.x_advance for place in positions) * scale + gaps


def line_outlines(face: Face, line: TextLine) -> list[Glyph]:
    """Return a line's glyphs as outlines on the picture.

    Parameters
    ----------
    face : Face
    line : TextLine
        Its middle, angle and arc are applied.

    Returns
    -------
    list of list of ndarray
        Contours by glyph, mm from the picture's middle.
    """
    flat = flat_outlines(face, line)
    return [[_placed(contour, line) for contour in glyph] for glyph in flat]


def line_box_mm(face: Face, line: TextLine) -> tuple[float, float, float, float]:
    """Return left, low, right and high of a line's letters on the picture in mm."""
    contours = [contour for glyph in line_outlines(face, line) for contour in glyph]
    if not contours:
        return line.x_mm, line.y_mm, line.x_mm, line.y_mm + line.cap_mm
    points = np.vstack(contours)
    left, low = points.min(axis=0).tolist()
    right, high = points.max(axis=0).tolist()
    return left, low, right, high


def flat_outlines(face: Face, line: TextLine) -> list[Glyph]:
    """Return a line's glyphs on a straight baseline, its middle at (0, 0), mm."""
    scale = line.cap_mm / face.cap_units
    infos, positions = _shaped(face, line.text)
    at = -line_length_mm(face, line) / 2
    glyphs: list[Glyph] = []
    for info, place in zip(infos, positions, strict=True):
        pen = _Pen()
        face.font.draw_glyph_with_pen(info.codepoint, pen)
        shift = np.array([at + place.x_offset * scale, place.y_offset * scale])
        contours = [np.array(points) * scale + shift for points in pen.contours]
        glyphs.append(
            [_dense(points, line.cap_mm) for points in contours if len(points) > 2]
        )
        at += place.x_advance * scale + line.spacing_mm
    return glyphs


def _dense(contour: Outline, cap_mm: float) -> Outline:
    """Return a contour whose edges are short enough to bend."""
    closed = np.vstack([contour, contour[:1]])
    steps = np.linalg.norm(np.diff(closed, axis=0), axis=1)
    pieces = np.maximum(np.ceil(steps / (cap_mm * _LONGEST_STEP)), 1).astype(int)
    share = [np.arange(n)[:, None] / n for n in pieces]
    parts = [
        closed[i] + (closed[i + 1] - closed[i]) * share[i] for i in range(len(contour))
    ]
    return np.vstack(parts)


def _placed(contour: Outline, line: TextLine) -> Outline:
    """Bend a contour onto the arc, turn it clockwise, move it to its place.

    On an arc of radius r a point (x, y) of the flat line lies at angle x/r
    and distance r + y from the circle's middle, so the baseline keeps its
    length.
    """
    x, y = contour[:, 0], contour[:, 1]
    if line.arc_mm:
        radius = line.arc_mm
        angle = x / radius
        x, y = (radius + y) * np.sin(angle), (radius + y) * np.cos(angle) - radius
    upright = np.stack([x, y], axis=1)
    turned = turned_points(upright, (0.0, 0.0), -line.angle_deg)
    return turned + np.array([line.x_mm, line.y_mm])
