"""Work in strips beside one another, on as many processors as there are."""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache

_LEAST = 64
"""A strip of fewer rows is not worth a thread."""


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max(processors() - 1, 1), "strips")


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
    begun = [_pool().submit(work, *edges[i : i + 2]) for i in range(1, count)]
    work(edges[0], edges[1])
    for one in begun:
        one.result()
