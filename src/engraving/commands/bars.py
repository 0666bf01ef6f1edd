"""Long work is shown on stderr as it goes, where that is a terminal."""

from collections.abc import Iterator
from contextlib import contextmanager

from tqdm import tqdm

from engraving.progress import listening

_AFTER_S = 1.0


class _Bars:
    """A bar for what is being done; the next one takes its place."""

    def __init__(self) -> None:
        self._what = ""
        self._bar: tqdm[None] | None = None

    def show(self, what: str, done: int, total: int) -> None:
        """Show how far it has come."""
        if what != self._what or self._bar is None:
            self.close()
            # None: shown on a terminal only.
            self._bar = tqdm(
                desc=what, total=total or None, unit_scale=True, disable=None,
                leave=False, delay=_AFTER_S,
            )  # fmt: skip
            self._what = what
        self._bar.update(done - self._bar.n)

    def close(self) -> None:
        """Take it away."""
        if self._bar is not None:
            self._bar.close()
            self._bar = None


@contextmanager
def bars() -> Iterator[None]:
    """Show the progress of what runs in the block."""
    shown = _Bars()
    try:
        with listening(shown.show):
            yield
    finally:
        shown.close()
