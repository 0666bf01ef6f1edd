"""How lines reach a controller over a serial link, and how long its head waits for them.

A line is sent as soon as the controller's receive buffer has room for it, and travels at
the rate of the link. It leaves the buffer once the plan has room, which it has when the
move so many before it has ended. A move begins when its line is planned and the move
before it has ended. What answers take on their way is left out.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

RECEIVES = 128
"""Bytes a usual controller receives beforehand (from memory of the open protocol)."""
USUAL_BLOCKS = 16
BITS_A_BYTE = 10
"""On a serial line: a start bit, eight of data and a stop bit."""

_SIZE, _TAKEN, _ENDED = range(3)


class Sending:
    """Lines as they come in and are run, band by band.

    Parameters
    ----------
    baud : int
        Of the link, above 0.
    blocks : int
        Moves the controller plans together; 0 for the usual number.
    receives : int
        Bytes of its receive buffer.
    """

    def __init__(self, baud: int, blocks: int = 0, receives: int = RECEIVES) -> None:
        self._rate = baud / BITS_A_BYTE
        self._blocks = blocks or USUAL_BLOCKS
        self._receives = receives
        self._before = np.zeros((3, 0))
        self._sent = 0.0
        self._moved = 0.0

    def add(self, sizes: NDArray[np.int64], seconds: NDArray[np.float64]) -> None:
        """Add a band of lines.

        Parameters
        ----------
        sizes : ndarray of int64, shape (n,)
            Bytes of each, its end among them.
        seconds : ndarray of float64, shape (n,)
            How long the head takes for each.
        """
        if not len(sizes):
            return
        known = self._before.shape[1]
        lines = np.concatenate([self._before, np.zeros((3, len(sizes)))], axis=1)
        lines[_SIZE, known:] = sizes
        self._sent = _feed(
            lines, known, seconds, self._rate, self._blocks, self._receives, self._sent
        )
        self._moved += float(seconds.sum())
        self._before = lines[:, -max(self._blocks, self._receives) :].copy()

    @property
    def wait_s(self) -> float:
        """How long the head has waited for lines, in s."""
        if not self._before.shape[1]:
            return 0.0
        return float(max(self._before[_ENDED, -1] - self._moved, 0.0))


@njit(cache=True, nogil=True)
def _feed(lines, known, seconds, rate, blocks, receives, sent):  # type: ignore[no-untyped-def]
    """Fill when each line is planned and run, in s; return when the last was sent."""
    size, taken, ended = lines[0], lines[1], lines[2]
    first, under_way = known, 0.0
    # What lies in the buffer: from the line `first` on.
    while first > 0 and under_way + size[first - 1] <= receives:
        first -= 1
        under_way += size[first]
    for k in range(known, size.size):
        under_way += size[k]
        while under_way > receives and first < k:
            sent = max(sent, taken[first])
            under_way -= size[first]
            first += 1
        sent += size[k] / rate
        room = ended[k - blocks] if k >= blocks else 0.0
        taken[k] = max(sent, room, taken[k - 1] if k else 0.0)
        ended[k] = max(taken[k], ended[k - 1] if k else 0.0) + seconds[k - known]
    return sent
