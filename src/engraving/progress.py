"""How far long work has come, for whoever listens: the command line does, on a terminal."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager

Listener = Callable[[str, int, int], None]
"""Is told what is done, how much of it is, and of how much; 0 where nobody knows."""

_listeners: list[Listener] = []


@contextmanager
def listening(listener: Listener) -> Iterator[None]:
    """Tell a listener of all work of this process while the block runs."""
    _listeners.append(listener)
    try:
        yield
    finally:
        _listeners.remove(listener)


def tell(what: str, done: int, total: int = 0) -> None:
    """Say how far some work has come."""
    for listener in _listeners:
        listener(what, done, total)
