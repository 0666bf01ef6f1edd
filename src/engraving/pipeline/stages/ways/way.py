"""What a way of marking declares, and what several of them share."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.dots import BitGrid
from engraving.geometry.swept import swept
from engraving.jobspec import PlacePart, SizePart
from engraving.pipeline.stage import Asked, Stage, value
from engraving.proof import Window
from engraving.toolpath import Moves

Values = NDArray[np.float64]
Pixels = NDArray[np.uint8]

_FINER = 4
"""Strokes are drawn so many times finer than the dots they are told by, at most."""
_MOST_DRAWN = 100_000_000


@dataclass(frozen=True)
class Words:
    """What a way's things are called on a ticket.

    Attributes
    ----------
    toned, plan : str
        The views of what is wanted, and of what is planned.
    station, burn : str
        The stations of the way, and of its settings.
    marked : str
        What is done to the piece.
    """

    toned: str = "Toned"
    plan: str = "Dots"
    station: str = "Dots"
    burn: str = "Burn"
    marked: str = "Burned"


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
    proof : Stage
        A window of the finished piece as sRGB codes, under a lamp that stands so many
        degrees clockwise from the top.
    plan : Stage, optional
        A window of what is planned; of none, the dots.
    toned : Stage, optional
        What is wanted as a gray picture; of none, the finished tones.
    words : Words
    grain : float
        How much of the material's own look the proof shows.
    surface : Stage, optional
        How deep a window comes out, mm; none where depth is nothing to be looked at.
    card : str
        The kind of swatch card that tells what it does to a material.
    """

    name: str
    label: str
    reason: str
    machines: tuple[str, ...]
    families: tuple[str, ...]
    moves: Stage[[], Iterator[Moves]]
    likeness: Stage[[], BitGrid]
    proof: Stage[[Window, float], Pixels]
    plan: Stage[[Window], Pixels] | None = None
    toned: Stage[[], Pixels] | None = None
    words: Words = Words()
    grain: float = 1.0
    surface: Stage[[Window], NDArray[np.float32]] | None = None
    card: str = "power-speed"

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

    def seen(self, strokes: Sequence[Values]) -> list[Values]:
        """Return strokes on the bed as they are seen of the picture; see `strokes`."""
        wide = self.size.cols * self.size.along_mm
        high = self.size.rows * self.size.pitch_mm
        found = []
        for one in strokes:
            x = one[:, 0] - self.place.x_mm
            y = self.place.y_mm + high - one[:, 1]
            flat = np.column_stack([wide - x if self.mirrored else x, y])
            found.append(np.column_stack([flat, one[:, 2:]]))
        return found

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
    scale = finer / cell_mm[0], finer / cell_mm[1]
    canvas = swept(strokes, widths, scale, (rows * finer, cols * finer))
    found = cv2.resize(canvas, (cols, rows), interpolation=cv2.INTER_AREA)
    return np.asarray(found, np.float32) / np.float32(255)


def covered_in(
    strokes: Sequence[Values],
    widths: Sequence[Values],
    window: Window,
    cell_mm: tuple[float, float],
) -> NDArray[np.uint8]:
    """Return what strokes cover of a window, 255 and 0, twice as fine as it is shown."""
    shape = 2 * window.height_px, 2 * window.width_px
    scale = (
        shape[1] / (window.cols * cell_mm[0]), shape[0] / (window.rows * cell_mm[1]),
    )  # fmt: skip
    corner = window.left * cell_mm[0], window.top * cell_mm[1]
    return swept(strokes, widths, scale, shape, corner)


def part_of(plane: NDArray[Any], window: Window, fill: float) -> NDArray[Any]:
    """Return the window of a plane on the grid; beyond it there is `fill`."""
    rows, cols = plane.shape
    out = np.full((window.rows, window.cols), fill, plane.dtype)
    x0, x1 = max(window.left, 0), min(window.left + window.cols, cols)
    y0, y1 = max(window.top, 0), min(window.top + window.rows, rows)
    if x0 < x1 and y0 < y1:
        out[y0 - window.top : y1 - window.top, x0 - window.left : x1 - window.left] = plane[
            y0:y1, x0:x1
        ]
    return out


def as_shown(plane: NDArray[Any], window: Window) -> NDArray[Any]:
    """Return a window's plane at the size it is shown: averaged, or straight between."""
    size = window.width_px, window.height_px
    way = cv2.INTER_AREA if window.shrinks else cv2.INTER_LINEAR
    return np.asarray(cv2.resize(plane, size, interpolation=way))
