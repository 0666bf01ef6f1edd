"""What only one of several processes may do, each time it is done."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.core.files import locks

_ABLE = bool(locks.LOCK_EX)


@contextmanager
def alone(path: Path) -> Iterator[bool]:
    """Hold a file for as long as the block runs; yield whether nobody else holds it.

    The system lets go of it when the process ends, in whatever way. Where it cannot
    hold files, everybody is alone.

    Parameters
    ----------
    path : Path
        The file that stands for what is done; made where it is not there.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    with path.open("ab") as held:
        mine = locks.lock(held, locks.LOCK_EX | locks.LOCK_NB)
        yield bool(mine) or not _ABLE
