"""What a way of marking declares, and what several of them share."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.dots import BitGrid
from engraving.jobspec import PlacePart, SizePart
from engraving.pipeline.stage import Asked, Stage, value
from engraving.toolpath import Moves

Values = NDArray[np.float64]

_FINER = 4
"""Strokes are drawn so many times finer than the dots they are told by, at most."""
_MOST_DRAWN = 100_000_000
_PART = 1 << 4
"""OpenCV draws at sixteenths of a pixel."""


@dataclass(frozen=True)
class Way:
    """A way of marking.

    Attributes
    ----------
    name : str
        As jobs have it.
    label : str
        Name for people.
    reason : str
        One sentence: when to choose it.
    machines : tuple of str
        The kinds of machine that can do it.
    families : tuple of str
        Of the dot methods, those it knows.
    moves : Stage
        The picture's tool path in bands, the piece lying straight.
    likeness : Stage
        The dots that it marks, as seen from the side that is looked at.
    """

    name: str
    label: str
    reason: str
    machines: tuple[str, ...]
    families: tuple[str, ...]
    moves: Stage[[], Iterator[Moves]]
    likeness: Stage[[], BitGrid]

    @property
    def touches(self) -> bool:
        """Whether it is done by a tool that touches."""
        return set(self.machines) <= {"drag", "vtool"}


@value(reads=("marking.way",))
def way_name(asked: Asked) -> str:
    """The way the picture is marked."""
    return asked.spec.marking.way


@dataclass(frozen=True)
class Lain:
    """Where a picture's rectangle lies on the bed."""

    size: SizePart
    place: PlacePart
    mirrored: bool

    def strokes(self, strokes: Sequence[Values]) -> list[Values]:
        """Return strokes as they lie on the bed, from what is seen of the picture.

        Parameters
        ----------
        strokes : sequence of ndarray, shape (n, 2) or (n, 3)
            mm from the picture's top left corner, y down; further columns stay.
        """
        wide = self.size.cols * self.size.along_mm
        high = self.size.rows * self.size.pitch_mm
        found = []
        for one in strokes:
            x = wide - one[:, 0] if self.mirrored else one[:, 0]
            lain = np.column_stack(
                [self.place.x_mm + x, self.place.y_mm + high - one[:, 1]]
            )
            found.append(np.column_stack([lain, one[:, 2:]]))
        return found


@value(reads=("size", "place", "side"))
def lain(asked: Asked) -> Lain:
    """Where the picture lies on the bed, the piece not yet turned."""
    return Lain(asked.spec.size, asked.spec.place, asked.spec.mirrored)


def drawn(
    strokes: Sequence[Values],
    widths: Sequence[Values],
    shape: tuple[int, int],
    cell_mm: tuple[float, float],
) -> BitGrid:
    """Return the dots that strokes cover by half or more.

    Parameters
    ----------
    strokes : sequence of ndarray, shape (n, 2)
        mm from the picture's top left corner, y down.
    widths : sequence of ndarray, shape (n,)
        How wide they mark at their points, mm.
    shape : tuple of int
        Rows and columns.
    cell_mm : tuple of float
        Length of a dot and distance of the rows.
    """
    return BitGrid.from_dots(
        (covered(strokes, widths, shape, cell_mm) >= 0.5).astype(np.uint8)
    )


def covered(
    strokes: Sequence[Values],
    widths: Sequence[Values],
    shape: tuple[int, int],
    cell_mm: tuple[float, float],
) -> NDArray[np.float32]:
    """Return which share of each dot strokes cover, float32 of shape (rows, cols), 0..1."""
    rows, cols = shape
    finer = max(min(_FINER, math.isqrt(_MOST_DRAWN // (rows * cols))), 1)
    canvas = np.zeros((rows * finer, cols * finer), np.uint8)
    scale = finer / np.array(cell_mm)
    for points, wide in zip(strokes, widths, strict=True):
        _draw(canvas, points * scale, wide * scale.mean())
    found = cv2.resize(canvas, (cols, rows), interpolation=cv2.INTER_AREA)
    return np.asarray(found, np.float32) / np.float32(255)


def _draw(canvas: NDArray[np.uint8], points: Values, wide: Values) -> None:
    """Draw one stroke as discs and the hulls between them."""
    where = np.rint((points - 0.5) * _PART).astype(np.int32)
    half = wide / 2
    shift: dict[str, Any] = {"shift": 4, "lineType": cv2.LINE_8}
    for at, radius in zip(where, half, strict=True):
        if radius > 0:
            cv2.circle(canvas, at.tolist(), round(float(radius) * _PART), 255, -1, **shift)
    if len(points) < 2:
        return
    way = np.diff(points, axis=0)
    long = np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    side = np.column_stack([-way[:, 1], way[:, 0]]) / long
    first, last = half[:-1, None] * side, half[1:, None] * side
    quads = np.stack(
        [points[:-1] + first, points[1:] + last, points[1:] - last, points[:-1] - first],
        axis=1,
    )
    for quad in np.rint((quads - 0.5) * _PART).astype(np.int32):
        cv2.fillConvexPoly(canvas, quad, 255, **shift)
