"""How many passes each dot gets, and what each pass fires.

A pass takes the same depth wherever it fires, so a dot's depth is a number of passes,
and seldom a whole one. The part that is left over is spread: errors are diffused to the
neighbours (weights of Floyd & Steinberg 1976, Proc. SID 17(2):75-77, to and fro), each
dot going one pass down or up at most. So a slope has no terraces, and the mean depth
stays what was wanted.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

from engraving.dots import BitGrid
from engraving.dots.power import FULL
from engraving.jobspec import ReliefPart

Passes = NDArray[np.uint16]

_WHOLE = np.float32(1e-4)
"""Passes so near a whole number are one: 0.6 mm by 0.2 mm are three."""


@dataclass(frozen=True)
class Relief:
    """A relief as it is to be burned.

    Attributes
    ----------
    depths : ndarray of float32, shape (rows, cols)
        mm wanted below the surface.
    passes : ndarray of uint16, shape (rows, cols)
        How often each dot is fired at; where power follows the depth, how many passes
        it is fired in at all.
    per_pass_mm : float
    """

    depths: NDArray[np.float32]
    passes: Passes
    per_pass_mm: float

    @property
    def count(self) -> int:
        """Passes in all."""
        return int(self.passes.max(initial=0))

    @property
    def deepest_mm(self) -> float:
        """The deepest that is wanted."""
        return float(self.depths.max(initial=0))

    def mirrored(self) -> "Relief":
        """Return it left to right."""
        flip = np.ascontiguousarray
        return Relief(
            flip(self.depths[:, ::-1]), flip(self.passes[:, ::-1]), self.per_pass_mm
        )


@dataclass(frozen=True)
class Pass:
    """One pass.

    Attributes
    ----------
    dots : BitGrid
        Where it fires.
    number : int
        Counted from 0.
    cleaning : bool
        It only blows off what the ones before it left.
    """

    dots: BitGrid
    number: int
    cleaning: bool = False


def planned(depths: NDArray[np.float32], relief: ReliefPart) -> Relief:
    """Return how often each dot is fired at.

    White, and what has no depth, is never fired at. Without spreading each dot gets the
    nearest whole number of passes, half ones rounded up.
    """
    wanted = depths / np.float32(relief.per_pass_mm)
    near = np.rint(wanted)
    wanted = np.where(np.abs(wanted - near) < _WHOLE, near, wanted)
    if relief.how != "passes":
        passes = np.ceil(wanted).astype(np.uint16)
    elif relief.spread:
        passes = np.zeros(wanted.shape, np.uint16)
        _spread(wanted, passes)
    else:
        passes = np.floor(wanted + np.float32(0.5)).astype(np.uint16)
    return Relief(depths, passes, relief.per_pass_mm)


def passes_of(plan: Relief, relief: ReliefPart) -> Iterator[Pass]:
    """Yield the passes in their order, cleaning ones among them."""
    whole = None
    for number in range(plan.count):
        fires = plan.passes > number
        yield Pass(_fired(plan, relief, number, fires), number)
        every = relief.clean_every
        if every and (number + 1) % every == 0:
            whole = BitGrid(np.packbits(fires, axis=1), fires.shape[1])
            yield Pass(whole, number, cleaning=True)


def _fired(
    plan: Relief, relief: ReliefPart, number: int, fires: NDArray[np.bool_]
) -> BitGrid:
    if relief.how == "passes":
        return BitGrid(np.packbits(fires, axis=1), fires.shape[1])
    wanted = plan.depths / np.float32(plan.per_pass_mm)
    if relief.how == "power":
        share = wanted / np.float32(max(plan.count, 1))
    else:
        share = (wanted - np.float32(number)).clip(0, 1)
    return BitGrid.from_power(np.rint(share * FULL).astype(np.uint16))


@njit(cache=True, nogil=True)
def _spread(wanted, passes):  # type: ignore[no-untyped-def]
    """Round each dot down or up, its error handed on, to and fro by rows."""
    rows, cols = wanted.shape
    own = np.zeros(cols + 2, np.float32)
    below = np.zeros(cols + 2, np.float32)
    for y in range(rows):
        forward = y % 2 == 0
        step = 1 if forward else -1
        x = 0 if forward else cols - 1
        ahead = np.float32(0)
        for _ in range(cols):
            value = wanted[y, x]
            # What a bare dot is handed goes on, or the mean would not keep.
            error = own[x + 1] + ahead
            low = np.floor(value)
            count = low
            if value > low and value - low + error >= 0.5:
                count = low + 1
            error += value - count
            passes[y, x] = np.uint16(count)
            ahead = error * np.float32(0.4375)
            below[x + 1 - step] += error * np.float32(0.1875)
            below[x + 1] += error * np.float32(0.3125)
            below[x + 1 + step] += error * np.float32(0.0625)
            x += step
        for k in range(cols + 2):
            own[k] = below[k]
            below[k] = 0
