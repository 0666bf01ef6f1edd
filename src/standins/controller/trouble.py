"""What goes wrong on demand: with the cable, the board, the axes or the lens."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

KINDS = (
    "cut", "silence", "slow", "garbage", "extra", "error", "limit", "reset", "power",
    "steps", "focus",
)  # fmt: skip
"""The link is cut in mid-line; nothing is answered any more; answers come late; noise
swallows an answer; an answer comes twice; a line is refused; a limit switch; the board
starts anew; its power goes; steps are lost; the lens is out of focus."""


@dataclass
class Trouble:
    """One thing that goes wrong.

    Parameters
    ----------
    kind : str
        One of `KINDS`.
    after : int
        How many lines are answered before.
    amount : float
        Seconds an answer is late; mm of lost steps, along X; mm out of focus.
    """

    kind: str
    after: int = 0
    amount: float = 0.0

    @classmethod
    def wanted(cls, words: Mapping[str, Any]) -> "Trouble":
        """Return what was asked for.

        Raises
        ------
        ValueError
            For what no stand-in can do.
        """
        kind = str(words["kind"])
        if kind not in KINDS:
            raise ValueError(kind)
        return cls(kind, int(words.get("after", 0)), float(words.get("amount", 0)))
