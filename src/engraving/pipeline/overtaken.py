"""Computing stops between two results once nobody waits for what it leads to.

Whoever begins a long computation may say what tells that it is overtaken. The cache asks
it before it makes a result. What was made until then is kept, so beginning anew costs only
what was left to do.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar


class Overtaken(Exception):  # noqa: N818 (no fault: nobody waits for it any more)
    """What is computed is not wanted any more."""


def _never() -> bool:
    return False


_is_overtaken: ContextVar[Callable[[], bool]] = ContextVar("overtaken", default=_never)


@contextmanager
def unless_overtaken(is_overtaken: Callable[[], bool]) -> Iterator[None]:
    """Compute as long as it is wanted; in this thread, until the end of the block.

    Parameters
    ----------
    is_overtaken : callable
        Asked before each result that has to be made; must be quick.

    Raises
    ------
    Overtaken
        In the block, at the first result to be made after it returned True.
    """
    token = _is_overtaken.set(is_overtaken)
    try:
        yield
    finally:
        _is_overtaken.reset(token)


def stop_if_overtaken() -> None:
    """Raise `Overtaken` where what is computed is not wanted any more."""
    if _is_overtaken.get()():
        raise Overtaken
