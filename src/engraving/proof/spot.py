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

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import erf, exp, pi, sqrt
from typing import Any

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.strips import in_strips

SAMPLES = 4
"""Samples per dot, each way, that a close look gets."""

_FINE = 8
_OF_TABLE = ((1.3, 8), (0.7, 16), (0.0, 32))
_OF_EACH = (
    (6.0, 1), (3.5, 2), (2.4, 3), (2.0, 4), (1.3, 6), (0.75, 14), (0.5, 24), (0.0, 32),
)  # fmt: skip
"""Parts of a cell along a side, by the spot in dots, in a table and where marks are
computed each time: so many that the mean is within 0.005 of the integral."""
_DISC_PARTS = 6
_MOVES = tuple(part.tolist() for part in np.polynomial.legendre.leggauss(12))
_STEPS = 1 << 14
_REACH = 0.8
"""Reach of a Gaussian spot in its 1/e² diameters."""
_WIDEST = 2.0
_WIDEST_ALONG = 3.0
_ACROSS = 2
_FULL = 65535


@dataclass(frozen=True)
class MaterialResponse:
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

    @property
    def most(self) -> float:
        """Energy from which nothing changes any more."""
        if self.shape == "disc":
            return 1.0
        return max(1.0, 2 * self.scorch_from) / max(self.exposure, 1e-6)

    def table(self) -> NDArray[np.uint16]:
        """Return the marks of even steps of energy from 0 to `most`."""
        return self.marks(np.linspace(0, self.most, _STEPS, dtype=np.float32))


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
    answer: MaterialResponse
    smear: float = 0.0

    @property
    def frame(self) -> tuple[int, int]:
        """Rows above and below, and columns beside, from which a dot's cell is reached."""
        reach = 0.5 if self.answer.shape == "disc" else _REACH
        rows = int(np.ceil(reach * self.ratio + 0.5))
        cols = int(np.ceil(reach * self.ratio / self.along + 0.5 + self.smear / 2))
        return max(rows, 1), max(cols, _ACROSS)

    def _near(self, dots: NDArray[Any]) -> NDArray[Any]:
        """Return dots with the frame of a table's neighbourhood only."""
        rows, cols = self.frame
        across, down = cols - _ACROSS, rows - 1
        return dots[down : dots.shape[0] - down, across : dots.shape[1] - across]

    def marks(self, dots: NDArray[np.uint8] | NDArray[np.float32]) -> NDArray[np.uint16]:
        """Return the mean mark of each cell.

        Parameters
        ----------
        dots : ndarray of uint8 or float32
            Dots, 0 or 1, or their powers, 0..1, with a `frame` of neighbours.

        Returns
        -------
        ndarray of uint16, shape (rows, cols)
            65535 is the answer's top.
        """
        if self.wide or dots.dtype != np.uint8:
            return self._convolved(dots)
        near = self._near(dots)
        out = np.zeros((near.shape[0] - 2, near.shape[1] - 2 * _ACROSS), np.uint16)
        in_strips(len(out), lambda a, b: _look_up(near, self.cells, out, a, b))
        return out

    def averaged(
        self, dots: NDArray[np.uint8] | NDArray[np.float32], width: int, height: int
    ) -> NDArray[np.uint16]:
        """Return the mean mark of each pixel of a picture with fewer pixels than dots.

        Where a neighbourhood tells the mark, `averaging` does it sooner.

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
        plane = self.marks(dots)
        shrunk = cv2.resize(plane, (width, height), interpolation=cv2.INTER_AREA)
        return np.asarray(shrunk, np.uint16)

    def marks_within(
        self, dots: NDArray[np.uint8] | NDArray[np.float32], per_dot: int = SAMPLES
    ) -> NDArray[np.uint16]:
        """Return marks at four by four points of each cell, or at two by two.

        ``per_dot`` is 4 or 2; shape (per_dot·r, per_dot·c).
        """
        if self.wide or dots.dtype != np.uint8:
            out = np.zeros((0, 0), np.uint16)
            for i, j, energy in self._energies(dots, (per_dot, per_dot)):
                marks = self.answer.marks(energy)
                if not out.size:
                    rows, cols = marks.shape
                    out = np.zeros((rows * per_dot, cols * per_dot), np.uint16)
                out[i::per_dot, j::per_dot] = marks
            return out
        near = self._near(dots)
        rows, cols = near.shape[0] - 2, near.shape[1] - 2 * _ACROSS
        table = self.samples if per_dot == SAMPLES else self.pairs
        out = np.zeros((rows * per_dot, cols * per_dot), np.uint16)
        flat = table.reshape(-1)
        in_strips(rows, lambda a, b: _look_up_within(near, flat, per_dot, out, a, b))
        return out

    def _convolved(
        self, dots: NDArray[np.uint8] | NDArray[np.float32]
    ) -> NDArray[np.uint16]:
        """Return mean marks, by the mean energy of parts of the cell."""
        spots = self.ratio, self.ratio / self.along
        down, across = (_parts(spot, _OF_EACH) for spot in spots)
        if self.answer.shape == "disc":
            down = across = _DISC_PARTS
        rows, cols = self.frame
        shape = dots.shape[0] - 2 * rows, dots.shape[1] - 2 * cols
        total, table = np.zeros(shape, np.uint32), self.answer.table()
        scale = np.float32((_STEPS - 1) / self.answer.most)
        for _, _, energy in self._energies(dots, (down, across)):
            _add_marks(energy, table, scale, total)
        return ((total + down * across // 2) // (down * across)).astype(np.uint16)

    def _energies(
        self, dots: NDArray[np.uint8] | NDArray[np.float32], parts: tuple[int, int]
    ) -> Iterator[tuple[int, int, NDArray[np.float32]]]:
        """Yield the mean energy of each part of all cells, parts down and across."""
        rows, cols = self.frame
        powers = dots.astype(np.float32)
        spot = self.ratio / self.along, self.ratio, self.smear
        for i in range(parts[0]):
            for j in range(parts[1]):
                energy = _energy_at(powers, spot, self.answer, (i, j), parts, self.frame)
                yield i, j, energy[rows:-rows, cols:-cols]


@lru_cache(maxsize=16)
def spot_model(
    ratio: float, answer: MaterialResponse, along: float = 1.0, smear: float = 0.0
) -> SpotModel:
    """Return the model of a spot.

    Parameters
    ----------
    ratio : float
        Spot diameter over row pitch, above 0; for a Gaussian the 1/e² diameter.
    answer : MaterialResponse
        The spot's shape and the substrate's answer.
    along : float
        Length of a dot along its row over the row pitch.
    smear : float
        How far the head moves while the beam comes up or goes out, in dots; 0 of
        pulses and discs. Starts and ends of runs are softened by it.
    """
    if answer.pulsed or answer.shape == "disc":
        smear = 0.0
    reach = ratio / along + smear / (2 * _REACH)
    if ratio > _WIDEST or reach > _WIDEST_ALONG:
        none = np.zeros(0, np.uint16)
        empty = np.zeros((0, SAMPLES, SAMPLES), np.uint16)
        return SpotModel(none, empty, empty, True, ratio, along, answer, smear)
    fine = _parts(ratio, _OF_TABLE), _parts(ratio / along, _OF_TABLE)
    if answer.shape == "disc":
        fine = (4 * _FINE, 4 * _FINE)
    cells = np.zeros(1 << 15, np.uint16)
    samples = np.zeros((1 << 15, SAMPLES, SAMPLES), np.uint16)
    spot = ratio / along, ratio, smear
    energy = _neighbour_energy(spot, answer, fine)
    coarse = _neighbour_energy(spot, answer, (SAMPLES, SAMPLES))
    step = 1 << 11
    for start in range(0, 1 << 15, step):
        bits = _patterns(start, step)
        part = slice(start, start + step)
        cells[part] = np.rint(answer.marks(bits @ energy).mean(axis=1))
        samples[part] = answer.marks(bits @ coarse).reshape(step, SAMPLES, SAMPLES)
    halves = samples.reshape(-1, 2, 2, 2, 2).mean(axis=(2, 4), dtype=np.float32)
    pairs = np.rint(halves).astype(np.uint16)
    return SpotModel(cells, samples, pairs, False, ratio, along, answer, smear)


def _patterns(start: int, count: int) -> NDArray[np.float32]:
    index = np.arange(start, start + count)
    return ((index[:, None] >> np.arange(14, -1, -1)) & 1).astype(np.float32)


def _parts(spot: float, table: Sequence[tuple[float, int]]) -> int:
    """Return in how many parts a dot is divided along a side, for a spot in dots."""
    return next(parts for least, parts in table if spot >= least)


def _neighbour_energy(
    spot: tuple[float, float, float], answer: MaterialResponse, fine: tuple[int, int]
) -> NDArray[np.float32]:
    """Return what each of 15 neighbours adds at fine points, shape (15, rows · columns)."""
    energy = np.zeros((15, *fine), np.float32)
    for j in range(5):
        for i, dy in enumerate((-1, 0, 1)):
            energy[3 * j + i] = _from_dot(j - _ACROSS, dy, spot, answer, fine)
    return energy.reshape(15, -1)


def _from_dot(
    dx: int,
    dy: int,
    spot: tuple[float, float, float],
    answer: MaterialResponse,
    fine: tuple[int, int],
) -> NDArray[np.float32]:
    """Return the energy a dot at (dx, dy) leaves in the cell at (0, 0).

    ``spot`` is its diameter in dots, along the row and across rows, and the smear
    in dots; ``fine`` in
    how many parts the cell is divided, down and across.
    """
    if answer.shape == "disc":
        down, across = ((np.arange(parts) + 0.5) / parts - 0.5 for parts in fine)
        along = np.maximum(np.abs(across - dx) - (0 if answer.pulsed else 0.5), 0)
        off = down - dy
        inside = (along[None, :] / spot[0]) ** 2 + (off[:, None] / spot[1]) ** 2 <= 0.25
        return inside.astype(np.float32)
    along = np.array([_along(k, dx, spot, fine[1], answer) for k in range(fine[1])])
    down = np.array([_line(k, dy, spot[1] / 4, fine[0]) for k in range(fine[0])])
    return np.outer(down, along).astype(np.float32)


def _along(
    k: int, dx: int, spot: tuple[float, float, float], fine: int, answer: MaterialResponse
) -> float:
    """Mean, over sub-cell k, of what a dot at dx leaves along its row."""
    sigma, smear = spot[0] / 4, spot[2]
    if answer.pulsed:
        return _line(k, dx, sigma, fine)
    if not smear:
        return _swept(k, dx, sigma, fine)
    # The beam rises and falls evenly: the stroke is the mean of strokes moved by
    # up to half of that way.
    return float(
        sum(
            weight / 2 * _swept(k, dx + at * smear / 2, sigma, fine)
            for at, weight in zip(*_MOVES, strict=True)
        )
    )


def _swept(k: int, dx: float, sigma: float, fine: int) -> float:
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


def _energy_at(
    dots: NDArray[np.float32],
    spot: tuple[float, float, float],
    answer: MaterialResponse,
    part: tuple[int, int],
    parts: tuple[int, int],
    frame: tuple[int, int],
) -> NDArray[np.float32]:  # fmt: skip
    """Return the mean energy of one part of each cell."""
    edge = cv2.BORDER_CONSTANT
    down, across = (np.arange(-reach, reach + 1) for reach in frame)
    if answer.shape == "disc":
        y, x = ((k + 0.5) / n - 0.5 for k, n in zip(part, parts, strict=True))
        beyond = np.maximum(np.abs(across - x) - (0 if answer.pulsed else 0.5), 0)
        off = (down - y)[:, None]
        stadium = (beyond[None, :] / spot[0]) ** 2 + (off / spot[1]) ** 2 <= 0.25
        kernel = stadium.astype(np.float32)
        return np.asarray(cv2.filter2D(dots, cv2.CV_32F, kernel, borderType=edge))
    along = [_along(part[1], dx, spot, parts[1], answer) for dx in across.tolist()]
    beside = [_line(part[0], dy, spot[1] / 4, parts[0]) for dy in down.tolist()]
    kernels = np.array(along, np.float32), np.array(beside, np.float32)
    return np.asarray(cv2.sepFilter2D(dots, cv2.CV_32F, *kernels, borderType=edge))


@njit(cache=True, nogil=True)
def _add_marks(energy, table, scale, total):  # type: ignore[no-untyped-def]
    """Add the marks of energies, looked up in even steps."""
    rows, cols = energy.shape
    last = table.size - 1
    for y in range(rows):
        for x in range(cols):
            at = energy[y, x] * scale + np.float32(0.5)
            total[y, x] += table[min(int(at), last)] if at > 0 else table[0]


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
def _look_up(dots, table, out, begin, end):  # type: ignore[no-untyped-def]
    """Replace each dot by the table's entry for its 5 × 3 neighbourhood."""
    cols = out.shape[1]
    column, places = np.zeros(cols + 4, np.uint8), np.zeros(cols, np.int64)
    for y in range(begin, end):
        _neighbourhoods(dots, y, column, places)
        line = out[y]
        for x in range(cols):
            line[x] = table[places[x]]


@njit(cache=True, nogil=True)
def _look_up_within(dots, table, per, out, begin, end):  # type: ignore[no-untyped-def]
    """Write each dot's own square of samples, by its 5 × 3 neighbourhood."""
    cols = out.shape[1] // per
    column, places = np.zeros(cols + 4, np.uint8), np.zeros(cols, np.int64)
    for y in range(begin, end):
        _neighbourhoods(dots, y, column, places)
        for i in range(per):
            line = out[y * per + i]
            for x in range(cols):
                start = (places[x] * per + i) * per
                for j in range(per):
                    line[x * per + j] = table[start + j]
