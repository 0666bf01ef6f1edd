"""The blocks a controller has planned, in the order of their motion."""

from collections import deque

import numpy as np
from numpy.typing import NDArray

from standins.controller.interpreter import Block

_X, _Y, _FEED, _POWER, _Z, _FOLLOWS = range(6)
_ROOM = 4096


class Plan:
    """Blocks in one array, and where among them the operator is waited for.

    Rows are x, y in mm, speed in mm/s (0 for a rapid), power 0..1, height in mm, and
    whether the power follows the speed.
    """

    def __init__(self) -> None:
        self._rows = np.zeros((_ROOM, 6))
        self._begin = self._end = 0
        self._waits: deque[int] = deque()

    def __len__(self) -> int:
        return self._end - self._begin + len(self._waits)

    def add(self, block: Block) -> None:
        """Plan a block."""
        if self._end == len(self._rows):
            self._make_room()
        self._rows[self._end] = (
            block.x, block.y, block.feed, block.power, block.z, block.follows,
        )  # fmt: skip
        self._end += 1

    def add_wait(self) -> None:
        """Let the operator be waited for here."""
        self._waits.append(self._end)

    @property
    def waits(self) -> bool:
        """Whether the operator is waited for now."""
        return bool(self._waits) and self._waits[0] == self._begin

    def go_past_wait(self) -> None:
        """Leave a wait behind."""
        self._waits.popleft()

    def ahead(self, most: int) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
        """Return at most so many blocks, shape (n, 5), and whether power follows speed.

        Nothing beyond a wait is looked at.
        """
        end = min(self._end, self._begin + most)
        if self._waits:
            end = min(end, self._waits[0])
        rows = self._rows[self._begin : end]
        return rows[:, :_FOLLOWS].copy(), rows[:, _FOLLOWS] != 0

    def waits_after(self, blocks: int) -> bool:
        """Whether the operator is waited for after so many blocks."""
        return bool(self._waits) and self._waits[0] == self._begin + blocks

    def done(self, blocks: int) -> None:
        """Forget blocks that ended."""
        self._begin += blocks

    def clear(self) -> None:
        """Forget all of it."""
        self._begin = self._end = 0
        self._waits.clear()

    def _make_room(self) -> None:
        kept = self._rows[self._begin : self._end]
        self._waits = deque(at - self._begin for at in self._waits)
        if len(kept) > len(self._rows) // 2:
            self._rows = np.zeros((2 * len(self._rows), 6))
        self._rows[: len(kept)] = kept.copy()
        self._begin, self._end = 0, len(kept)
