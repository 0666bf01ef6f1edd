"""Work in strips, or in turns, beside one another, on as many processors as there are."""

import os
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from functools import cache
from itertools import pairwise

_LEAST = 64
"""A strip of fewer rows is not worth a thread."""


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max(processors() - 1, 1), "strips")


# A process that is forked off has none of its parent's threads.
if hasattr(os, "register_at_fork"):
    os.register_at_fork(after_in_child=_pool.cache_clear)


@cache
def processors() -> int:
    """Return how many processors this process may use."""
    return len(os.sched_getaffinity(0)) if hasattr(os, "sched_getaffinity") else (
        os.cpu_count() or 1
    )  # fmt: skip


def in_strips(rows: int, work: Callable[[int, int], None]) -> None:
    """Call ``work(first, last)`` for strips that together are all rows.

    Parameters
    ----------
    rows : int
        How many there are.
    work : callable
        Releases the interpreter's lock, writes its own rows only, and gives the same
        however the rows are cut.
    """
    count = max(min(processors(), rows // _LEAST), 1)
    edges = [rows * i // count for i in range(count + 1)]
    strips = list(pairwise(edges))
    begun = [_pool().submit(work, *strip) for strip in strips[1:]]
    work(*strips[0])
    for one, strip in zip(begun, strips[1:], strict=True):
        # What nobody has begun, since all are at somebody's larger work, is done here.
        if one.cancel():
            work(*strip)
        else:
            one.result()


def in_bands(rows: int, work: Callable[[int, int], None], deep: int = 256) -> None:
    """Call ``work(first, last)`` for bands of few rows, strips of them beside one another.

    So that what is made on the way, in wider numbers, never is as large as the whole.

    Parameters
    ----------
    rows : int
        How many there are.
    work : callable
        See `in_strips`.
    deep : int
        Most rows of a band.
    """

    def strip(begin: int, end: int) -> None:
        for first in range(begin, end, deep):
            work(first, min(first + deep, end))

    in_strips(rows, strip)


class InTurn:
    """Calls made beside what the caller does meanwhile, one after another, in order.

    What they do is done once `wait` has returned; what one of them raises, it raises.
    """

    def __init__(self) -> None:
        self._last: tuple[Future[object], Callable[[], object]] | None = None

    def call(self, work: Callable[[], object]) -> None:
        """Call `work` once what was asked for before is done."""
        self.wait()
        if processors() > 1:
            self._last = _pool().submit(work), work
        else:
            work()

    def wait(self) -> None:
        """Wait until all is done."""
        if self._last is None:
            return
        (begun, work), self._last = self._last, None
        if begun.cancel():
            work()
        else:
            begun.result()
