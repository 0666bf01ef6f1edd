"""From dots to marks: the beam's spot and the substrate's answer.

A burned dot is a segment as long as the dot, swept by the spot along the row,
or a single pulse.
Energy adds up and the substrate answers with a saturating mark. Within a
dot's cell the energy depends only on the dots around it, so the answer is
tabulated once for every neighbourhood of 5 × 3 dots and then looked up: as
exact as computing it anew, a hundred times quicker.

Energy is scaled so that a solid area burned by the recipe has a mean of 1.
Where dots differ in power there are too many neighbourhoods for a table, and
the spot is laid over the powers instead.
"""

from dataclasses import dataclass
from functools import lru_cache
from math import erf, exp, pi, sqrt

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

SAMPLES = 4
"""Samples per dot, each way, that a close look gets."""

_FINE = 8
_WIDEST = 2.0
_WIDEST_ALONG = 3.0
_ACROSS = 2
_FULL = 65535


@dataclass(frozen=True)
class Answer:
    """How a substrate answers energy, and how a spot spreads it.

    Attributes
    ----------
    shape : str
        ``gaussian`` or ``disc``. A disc marks fully wherever it passes.
    response : float
        Gain k of the mark ``(1 - exp(-k·E)) / (1 - exp(-k))``.
    onset : float
        Energy below which nothing marks.
    scorch_from : float
        Energy from which a full mark goes over into a scorched one; 0: never.
    exposure : float
        What every energy is multiplied by: the dose over the recipe's.
    pulsed : bool
        A dot is one pulse in its middle instead of a stroke over its length.
    """

    shape: str = "gaussian"
    response: float = 2.2
    onset: float = 0.0
    scorch_from: float = 0.0
    exposure: float = 1.0
    pulsed: bool = False

    @property
    def top(self) -> float:
        """The mark that 65535 stands for: 1 is a full mark, 2 a scorched one."""
        return 2.0 if self.scorch_from and self.shape == "gaussian" else 1.0

    def marks(self, energy: NDArray[np.float32]) -> NDArray[np.uint16]:
        """Return the marks of energies, 65535 = `top`."""
        if self.shape == "disc":
            return np.rint(np.minimum(energy, 1) * _FULL).astype(np.uint16)
        seen = np.float32(self.exposure) * energy
        over = np.maximum(seen - np.float32(self.onset), 0) / np.float32(1 - self.onset)
        mark = np.minimum(
            (1 - np.exp(-self.response * over)) / (1 - exp(-self.response)), 1
        )
        if self.top > 1:
            burnt = (seen - self.scorch_from) / self.scorch_from
            mark = (mark + np.clip(burnt, 0, 1)) / 2
        return np.rint(mark * _FULL).astype(np.uint16)


@dataclass(frozen=True)
class SpotModel:
    """Marks for one spot and answer.

    Attributes
    ----------
    cells : ndarray of uint16, shape (32768,)
        Mean mark of a dot's cell, 65535 = the answer's top, by the 15 dots
        around it: column by column from the left, each from the row above
        down, the first in the highest bit.
    samples : ndarray of uint16, shape (32768, 4, 4)
        The same, at four by four points of the cell.
    pairs : ndarray of uint16, shape (32768, 2, 2)
        The same, at two by two.
    wide : bool
        The spot reaches beyond that neighbourhood; marks are computed by
        convolution at one sample per dot instead.
    """

    cells: NDArray[np.uint16]
    samples: NDArray[np.uint16]
    pairs: NDArray[np.uint16]
    wide: bool
    ratio: float
    along: float
    answer: Answer

    def marks(self, dots: NDArray[np.uint8] | NDArray[np.float32]) -> NDArray[np.uint16]:
        """Return the mean mark of each cell.

        Parameters
        ----------
        dots : ndarray of uint8 or float32, shape (rows + 2, cols + 4)
            Dots, 0 or 1, or their powers, 0..1, with a frame of two columns
            and one row of neighbours.

        Returns
        -------
        ndarray of uint16, shape (rows, cols)
            65535 is the answer's top.
        """
        if self.wide or dots.dtype != np.uint8:
            lines = self._convolved(dots)
            return np.rint(lines.mean(axis=1, dtype=np.float32)).astype(np.uint16)
        rows, cols = dots.shape[0] - 2, dots.shape[1] - 2 * _ACROSS
        out = np.zeros((rows, cols), np.uint16)
        _look_up(dots, self.cells, out)
        return out

    def averaged(
        self, dots: NDArray[np.uint8] | NDArray[np.float32], width: int, height: int
    ) -> NDArray[np.uint16]:
        """Return the mean mark of each pixel of a picture with fewer pixels than dots.

        Parameters
        ----------
        dots
            As for `marks`.
        width, height : int
            Pixels, at most one a dot each way.

        Returns
        -------
        ndarray of uint16, shape (height, width)
            Area averages: a dot on the edge of two pixels counts for both by share.
        """
        if self.wide or dots.dtype != np.uint8:
            plane = self.marks(dots)
            shrunk = cv2.resize(plane, (width, height), interpolation=cv2.INTER_AREA)
            return np.asarray(shrunk, np.uint16)
        out = np.zeros((height, width), np.uint16)
        _average(dots, self.cells, out)
        return out

    def marks_within(
        self, dots: NDArray[np.uint8] | NDArray[np.float32], per_dot: int = SAMPLES
    ) -> NDArray[np.uint16]:
        """Return marks at four by four points of each cell, or at two by two.

        ``per_dot`` is 4 or 2; shape (per_dot·r, per_dot·c).
        """
        rows, cols = dots.shape[0] - 2, dots.shape[1] - 2 * _ACROSS
        if self.wide or dots.dtype != np.uint8:
            lines = self._convolved(dots)
            coarse = lines.reshape(-1, lines.shape[2])
            size = (cols * per_dot, rows * per_dot)
            return np.asarray(cv2.resize(coarse, size, interpolation=cv2.INTER_LINEAR))
        table = self.samples if per_dot == SAMPLES else self.pairs
        out = np.zeros((rows * per_dot, cols * per_dot), np.uint16)
        _look_up_within(dots, table.reshape(-1), per_dot, out)
        return out

    def _convolved(
        self, dots: NDArray[np.uint8] | NDArray[np.float32]
    ) -> NDArray[np.uint16]:
        """Return marks along lines within each row, shape (rows, lines, cols).

        A wide spot leaves no ridges between rows: one line will do.
        """
        spot, lines = (self.ratio / self.along, self.ratio), 1 if self.wide else SAMPLES
        powers = dots.astype(np.float32)
        marks = [
            self.answer.marks(
                _line_energy(powers, spot, self.answer, k, lines)[1:-1, _ACROSS:-_ACROSS]
            )
            for k in range(lines)
        ]
        return np.stack(marks, axis=1)


@lru_cache(maxsize=16)
def spot_model(ratio: float, answer: Answer, along: float = 1.0) -> SpotModel:
    """Return the model of a spot.

    Parameters
    ----------
    ratio : float
        Spot diameter over row pitch, above 0; for a Gaussian the 1/e² diameter.
    answer : Answer
        The spot's shape and the substrate's answer.
    along : float
        Length of a dot along its row over the row pitch.
    """
    if ratio > _WIDEST or ratio / along > _WIDEST_ALONG:
        none = np.zeros(0, np.uint16)
        empty = np.zeros((0, SAMPLES, SAMPLES), np.uint16)
        return SpotModel(none, empty, empty, True, ratio, along, answer)
    fine = _FINE if answer.shape == "gaussian" else 4 * _FINE
    cells = np.zeros(1 << 15, np.uint16)
    samples = np.zeros((1 << 15, SAMPLES, SAMPLES), np.uint16)
    energy = _neighbour_energy(ratio, along, answer, fine)
    coarse = _neighbour_energy(ratio, along, answer, SAMPLES)
    step = 1 << 12
    for start in range(0, 1 << 15, step):
        bits = _patterns(start, step)
        part = slice(start, start + step)
        cells[part] = np.rint(answer.marks(bits @ energy).mean(axis=1))
        samples[part] = answer.marks(bits @ coarse).reshape(step, SAMPLES, SAMPLES)
    halves = samples.reshape(-1, 2, 2, 2, 2).mean(axis=(2, 4), dtype=np.float32)
    pairs = np.rint(halves).astype(np.uint16)
    return SpotModel(cells, samples, pairs, False, ratio, along, answer)


def _patterns(start: int, count: int) -> NDArray[np.float32]:
    index = np.arange(start, start + count)
    return ((index[:, None] >> np.arange(14, -1, -1)) & 1).astype(np.float32)


def _neighbour_energy(
    ratio: float, along: float, answer: Answer, fine: int
) -> NDArray[np.float32]:
    """Return what each of 15 neighbours adds at fine² points, shape (15, fine²)."""
    energy = np.zeros((15, fine, fine), np.float32)
    for j in range(5):
        for i, dy in enumerate((-1, 0, 1)):
            spot = ratio / along, ratio
            energy[3 * j + i] = _from_dot(j - _ACROSS, dy, spot, answer, fine)
    return energy.reshape(15, fine * fine)


def _from_dot(
    dx: int, dy: int, spot: tuple[float, float], answer: Answer, fine: int
) -> NDArray[np.float32]:
    """Return the energy a dot at (dx, dy) leaves in the cell at (0, 0).

    ``spot`` is its diameter in dots, along the row and across rows.
    """
    if answer.shape == "disc":
        centre = (np.arange(fine) + 0.5) / fine - 0.5
        along = np.maximum(np.abs(centre - dx) - (0 if answer.pulsed else 0.5), 0)
        off = centre - dy
        inside = (along[None, :] / spot[0]) ** 2 + (off[:, None] / spot[1]) ** 2 <= 0.25
        return inside.astype(np.float32)
    spread = _line if answer.pulsed else _swept
    along = np.array([spread(k, dx, spot[0] / 4, fine) for k in range(fine)])
    down = np.array([_line(k, dy, spot[1] / 4, fine) for k in range(fine)])
    return np.outer(down, along).astype(np.float32)


def _swept(k: int, dx: int, sigma: float, fine: int) -> float:
    """Mean, over sub-cell k, of a unit segment at dx blurred by a Gaussian.

    The mean of a difference of normal distribution functions, by their
    integral z·Φ(z) + φ(z).
    """
    low, high = k / fine - 0.5, (k + 1) / fine - 0.5

    def integral(edge: float) -> float:
        return _phi_integral(high - edge, sigma) - _phi_integral(low - edge, sigma)

    return fine * (integral(dx - 0.5) - integral(dx + 0.5))


def _line(k: int, dy: int, sigma: float, fine: int) -> float:
    """Mean, over sub-cell k, of a line at dy blurred by a Gaussian."""
    low, high = k / fine - 0.5, (k + 1) / fine - 0.5
    return fine * (_phi(high - dy, sigma) - _phi(low - dy, sigma))


def _phi(z: float, sigma: float) -> float:
    return 0.5 * (1 + erf(z / (sigma * sqrt(2))))


def _phi_integral(z: float, sigma: float) -> float:
    bell = sigma / sqrt(2 * pi) * exp(-z * z / (2 * sigma * sigma))
    return z * _phi(z, sigma) + bell


def _line_energy(
    dots: NDArray[np.float32],
    spot: tuple[float, float],
    answer: Answer,
    line: int,
    lines: int,
) -> NDArray[np.float32]:
    """Return the energy along one of so many lines within each row."""
    edge = cv2.BORDER_CONSTANT
    if answer.shape == "disc":
        x, y = (_offsets(width / 2 + 0.5) for width in spot)
        beyond = np.maximum(np.abs(x) - (0 if answer.pulsed else 0.5), 0)
        off = (line + 0.5) / lines - 0.5 - y
        stadium = (beyond[None, :] / spot[0]) ** 2 + (off[:, None] / spot[1]) ** 2 <= 0.25
        kernel = stadium.astype(np.float32)
        return np.asarray(cv2.filter2D(dots, cv2.CV_32F, kernel, borderType=edge))
    spread = _line if answer.pulsed else _swept
    x, y = (_offsets(3 * width / 4 + 0.5) for width in spot)
    along = np.array([spread(0, dx, spot[0] / 4, 1) for dx in x.tolist()], np.float32)
    sigma = spot[1] / 4
    down = np.array([_line(line, dy, sigma, lines) for dy in y.tolist()], np.float32)
    return np.asarray(cv2.sepFilter2D(dots, cv2.CV_32F, along, down, borderType=edge))


def _offsets(reach: float) -> NDArray[np.int64]:
    most = int(np.ceil(reach))
    return np.arange(-most, most + 1)


@njit(cache=True, nogil=True)
def _begin(dots, y, column):  # type: ignore[no-untyped-def]
    """Fill `column` with the three dots of each column; return the first four as bits."""
    above, own, below = dots[y], dots[y + 1], dots[y + 2]
    for x in range(column.size):
        column[x] = (above[x] << 2) | (own[x] << 1) | below[x]
    index = 0
    for x in range(4):
        index = (index << 3) | column[x]
    return index


@njit(cache=True, nogil=True)
def _neighbourhoods(dots, y, column, places):  # type: ignore[no-untyped-def]
    """Fill `places` with what lies around each dot of row y, as 15 bits."""
    index = _begin(dots, y, column)
    for x in range(places.size):
        index = ((index << 3) | column[x + 4]) & 32767
        places[x] = index


@njit(cache=True, nogil=True)
def _look_up(dots, table, out):  # type: ignore[no-untyped-def]
    """Replace each dot by the table's entry for its 5 × 3 neighbourhood."""
    rows, cols = out.shape
    column, places = np.zeros(cols + 4, np.uint8), np.zeros(cols, np.int64)
    for y in range(rows):
        _neighbourhoods(dots, y, column, places)
        line = out[y]
        for x in range(cols):
            line[x] = table[places[x]]


@njit(cache=True, nogil=True)
def _look_up_within(dots, table, per, out):  # type: ignore[no-untyped-def]
    """Write each dot's own square of samples, by its 5 × 3 neighbourhood."""
    rows, cols = out.shape[0] // per, out.shape[1] // per
    column, places = np.zeros(cols + 4, np.uint8), np.zeros(cols, np.int64)
    for y in range(rows):
        _neighbourhoods(dots, y, column, places)
        for i in range(per):
            line = out[y * per + i]
            for x in range(cols):
                start = (places[x] * per + i) * per
                for j in range(per):
                    line[x * per + j] = table[start + j]


@njit(cache=True, nogil=True)
def _average(dots, table, out):  # type: ignore[no-untyped-def]
    """Average the marks of all dots under each pixel, row by row, keeping none of them.

    A row's marks are summed up from its left; what lies under a pixel is the
    difference of two such sums, the dot on an edge counting by share.
    """
    rows, cols = dots.shape[0] - 2, dots.shape[1] - 4
    height, width = out.shape
    column = np.zeros(cols + 4, np.uint8)
    # One longer than a row, so that the dot after the last one's edge is nothing.
    run = np.zeros(cols + 2, np.int64)
    across, down = cols / width, rows / height
    edge, part = np.zeros(width, np.int64), np.zeros(width, np.float32)
    for p in range(width):
        end = min((p + 1) * across, float(cols))
        edge[p], part[p] = int(end), np.float32(end - int(end))
    line, total = np.zeros(width, np.float32), np.zeros(width, np.float32)
    scale = np.float32(1 / (across * down))
    done, filled = 0, 0.0
    for y in range(rows):
        index, summed = _begin(dots, y, column), np.int64(0)
        for x in range(cols):
            index = ((index << 3) | column[x + 4]) & 32767
            summed += table[index]
            run[x + 1] = summed
        run[cols + 1] = summed
        whole, share_before = np.int64(0), np.float32(0)
        for p in range(width):
            at = edge[p]
            over = part[p] * np.float32(run[at + 1] - run[at])
            line[p] = np.float32(run[at] - whole) + (over - share_before)
            whole, share_before = run[at], over
        # The row belongs to the pixels it lies under, or to two by share.
        share = np.float32(min(y + 1.0, (done + 1) * down) - y)
        for p in range(width):
            total[p] += share * line[p]
        filled = min(y + 1.0, (done + 1) * down)
        while done < height and filled >= (done + 1) * down - 1e-9:
            for p in range(width):
                out[done, p] = np.uint16(min(total[p] * scale + np.float32(0.5), 65535.0))
            done += 1
            rest = min(y + 1.0 - filled, down)
            for p in range(width):
                total[p] = np.float32(rest) * line[p]
            filled += rest
