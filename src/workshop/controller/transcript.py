"""What was said on a link lately: rolling, kept with a run that failed."""

import time
from collections import deque
from typing import Any

LINES = 2000
_LONGEST = 200


class Transcript:
    """The newest lines of both directions, each with its time.

    Lines that only repeat one another (``ok``, status reports without news) are
    counted, so that what matters is not pushed out.
    """

    def __init__(self, lines: int = LINES) -> None:
        self._lines: deque[list[Any]] = deque(maxlen=lines)
        self._newest: tuple[str, str | bytes] = "", ""

    def note(self, way: str, text: str | bytes) -> None:
        """Note a line.

        Parameters
        ----------
        way : str
            ``>`` to the controller, ``<`` from it, ``*`` a remark of ours.
        text : str or bytes
            The line. Bytes are spelled only when somebody reads: a burn says tens of
            thousands of lines a second.
        """
        said = way, text
        if said == self._newest:
            self._lines[-1][2] += 1
            return
        self._newest = said
        self._lines.append([time.time(), said, 1])

    def text(self) -> str:
        """Return all of it, a line each: seconds of the day, direction, text."""
        out = []
        for at, (way, text), count in list(self._lines):
            clock = time.strftime("%H:%M:%S", time.localtime(at))
            times = f"  ({count} times)" if count > 1 else ""
            said = f"{way} {_spelled(text)[:_LONGEST]}"
            out.append(f"{clock}.{int(at * 1000) % 1000:03d} {said}{times}")
        return "\n".join(out) + "\n"


def _spelled(text: str | bytes) -> str:
    return text if isinstance(text, str) else text.decode("ascii", "replace").strip()
