"""What was said on a link lately: rolling, kept with a run that failed."""

import time
from collections import deque

LINES = 2000


class Transcript:
    """The newest lines of both directions, each with its time.

    Lines that only repeat one another (``ok``, status reports without news) are
    counted, so that what matters is not pushed out.
    """

    def __init__(self, lines: int = LINES) -> None:
        self._lines: deque[list[float | str | int]] = deque(maxlen=lines)

    def note(self, way: str, text: str) -> None:
        """Note a line.

        Parameters
        ----------
        way : str
            ``>`` to the controller, ``<`` from it, ``*`` a remark of ours.
        text : str
            The line.
        """
        said = f"{way} {text[:200]}"
        if self._lines and self._lines[-1][1] == said:
            self._lines[-1][2] = int(self._lines[-1][2]) + 1
            return
        self._lines.append([time.time(), said, 1])

    def text(self) -> str:
        """Return all of it, a line each: seconds of the day, direction, text."""
        out = []
        for at, said, count in list(self._lines):
            clock = time.strftime("%H:%M:%S", time.localtime(float(at)))
            times = f"  ({count} times)" if int(count) > 1 else ""
            out.append(f"{clock}.{int(float(at) * 1000) % 1000:03d} {said}{times}")
        return "\n".join(out) + "\n"
