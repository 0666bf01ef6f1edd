"""One program on its way into a controller: fed, held, counted, finished."""

import json
import time
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, Literal

from workshop.controller.link import Link
from workshop.controller.program import Program, RowTable, asked_by

Kind = Literal["burn", "dry", "walk", "probe"]
_USUAL_BLOCKS = 16
_NOTED_EVERY_S = 0.4
_BEAM_OUT = b"S0\n"
_ENDS = ("done", "stopped", "failed")


@dataclass
class Streaming:
    """A program that is being sent, and what is known of it.

    Attributes
    ----------
    kind : str
        A burn, a dry run, a walk round the border, or the bed probed.
    name : str
        What asks for it calls it so: a burn's number.
    state : str
        ``running``, ``holding`` (the row is finished first), ``held``, ``waiting`` (the
        program waits for its operator), ``done``, ``stopped`` or ``failed``.
    fault : str
        What went wrong, as a sentence.
    holds : int
        How many times it was held, by us or by itself.
    alarms : list of (float, str)
        Seconds of its own clock, and what the machine said.
    asks : str
        The tool it waits for, while it does.
    probed : list of float
        Heights in the machine's frame where a tool touched, in mm.
    """

    kind: Kind
    name: str
    program: Program
    rows: RowTable
    journal: Path | None = None
    begun: float = field(default_factory=time.monotonic)
    state: str = "running"
    fault: str = ""
    elapsed_s: float = 0.0
    rows_done: int = 0
    lines_done: int = 0
    trims: list[tuple[float, int, int]] = field(default_factory=list)
    holds: int = 0
    alarms: list[tuple[float, str]] = field(default_factory=list)
    asks: str = ""
    probed: list[float] = field(default_factory=list)

    def __post_init__(self) -> None:
        self._lines = self.program.lines()
        self._next: bytes | None = next(self._lines, None)
        self._taken = 0
        self._first: int | None = None
        self._clock: tuple[float, float] | None = None
        self._was = time.monotonic()
        self._noted = 0.0
        self._starts = set(self.rows.lines)
        self._quiet: int | None = None
        self._beam_out_wanted = False
        self._held_by_us = self._paused = False
        self._rested_at: int | None = None

    @property
    def at_rest(self) -> bool:
        """Whether its head may be moved meanwhile, since all words are said anew after.

        Not so while it is held after a row: the next line may leave a place out.
        """
        return bool(self.asks) and self.state == "waiting"

    @property
    def ended(self) -> bool:
        """Whether it is over, however it went."""
        return self.state in _ENDS

    def feed(self, link: Link) -> None:
        """Write as many lines as the controller has room for."""
        if self._first is None:
            self._first = link.answered
        if self._rested_at is not None and self.state == "running":
            # What was said in between is no part of the program.
            self._first += link.answered - self._rested_at
            self._rested_at = None
        batch: list[bytes] = []
        room = link.room
        if self._beam_out_wanted and len(_BEAM_OUT) <= room:
            # A stroke may end with the beam on. Each row begins with its own S word.
            self._beam_out_wanted = False
            self._first += 1
            link.put([_BEAM_OUT])
            return
        while (line := self._next) is not None and self._may_send() and not asked_by(line):
            if len(line) > link.capacity:
                self.end("failed", f"Line {self._taken + 1} is too long for the machine.")
            if len(line) > room:
                break
            room -= len(line)
            batch.append(line)
            self._advance()
        if batch:
            self._quiet = None
        link.put(batch)

    def _advance(self) -> None:
        self._next = next(self._lines, None)
        self._taken += 1

    def line_of(self, answered: int) -> int:
        """Return which line of the program an answer is for, counted from 1."""
        return answered - (self._first or 0)

    def _may_send(self) -> bool:
        return self.state == "running" or self._finishing_row()

    def _finishing_row(self) -> bool:
        """Whether a hold still lets the row that was begun run out."""
        return self.state == "holding" and self._taken not in self._starts

    def follow(self, link: Link) -> None:
        """Learn from the newest status how far it is."""
        status = link.status
        now = time.monotonic()
        if status is None or self._first is None:
            return
        if status.clock_s is not None:
            if self._clock is None or status.clock_s < self._clock[1]:
                self._clock = (status.clock_s, status.clock_s)
            self._clock = (self._clock[0], status.clock_s)
            self.elapsed_s = status.clock_s - self._clock[0]
        elif self.state in ("running", "holding") and status.state == "run":
            self.elapsed_s += now - self._was
        self._was = now
        if link.under_way:
            self._quiet = None
        elif self._quiet is None:
            self._quiet = link.reports
        # What was answered when the report was made: the plan it tells of holds the last.
        then = link.answered_then
        if self._rested_at is not None:
            then = min(then, self._rested_at)
        answered = then - self._first
        planned = _blocks_in_plan(link)
        self.lines_done = max(self.lines_done, answered - planned)
        self.rows_done = max(self.rows_done, self._rows_of(link))
        self._turn_state(link)

    def _rows_of(self, link: Link) -> int:
        """Return how many rows are surely burned: those before the one in the plan."""
        if self._next is None and self._drained(link):
            return len(self.rows.lines)
        return max(self.rows.begun(self.lines_done) - 1, 0)

    def _drained(self, link: Link) -> bool:
        """Whether all that was sent is done, as a report says that was asked for later."""
        return (
            self._quiet is not None and link.reports >= self._quiet + 2 and _at_rest(link)
        )

    def _turn_state(self, link: Link) -> None:
        status = link.status
        if status is None or self.ended:
            return
        if status.state in ("hold", "door") and status.part == 0:
            if self.state in ("running", "holding"):
                self.state = "held" if self._held_by_us else "waiting"
                self.holds += self._held_by_us
        elif (
            self.state in ("waiting", "held")
            and status.state in ("run", "idle")
            and not self._paused
        ):
            self.state = "running"
        drained = self._drained(link)
        if self.state == "holding" and drained and not self._finishing_row():
            self.state, self._paused, self._beam_out_wanted = "held", True, True
            self.holds += 1
        if (tool := asked_by(self._next)) and drained and self.state == "running":
            self.state, self.asks, self._paused = "waiting", tool, True
            self._rested_at = link.answered
            self._first = (self._first or 0) - 1  # the line that is not sent counts as done
            self._advance()
        if self._next is None and drained and self.state == "running":
            self.state = "done"

    def hold_after_row(self) -> None:
        """Send no further row; the one that was begun is finished."""
        if self.state == "running":
            self.state = "holding"

    def held_now(self) -> None:
        """Know that the hold at once is ours."""
        self._held_by_us = True

    def resume(self) -> bool:
        """Go on; return whether the controller must be told."""
        told = self.state in ("held", "waiting") and not self._paused
        self._held_by_us = self._paused = False
        if self.state in ("held", "holding", "waiting"):
            self.state, self.asks = "running", ""
        return told

    def end(self, state: str, fault: str = "") -> None:
        """Be over."""
        if not self.ended:
            self.state, self.fault = state, fault

    def note(self, *, last: bool = False) -> None:
        """Write the journal, now and then and at the end; a full disk stops nothing."""
        now = time.monotonic()
        if self.journal is None or (not last and now - self._noted < _NOTED_EVERY_S):
            return
        self._noted = now
        try:
            with self.journal.open("a") as stream:
                stream.write(json.dumps({"at": time.time(), **self.told()}) + "\n")
        except OSError:
            pass

    def told(self) -> dict[str, Any]:
        """Return what a page is told of it."""
        due = self.rows.due(self.lines_done)
        total = self.rows.total_s
        slower = self.elapsed_s / due if due > 0.05 * total and self.elapsed_s else 1.0
        return {
            "kind": self.kind,
            "name": self.name,
            "state": self.state,
            "fault": self.fault,
            "rows": self.rows_done,
            "rows_all": len(self.rows.lines),
            "lines": self.lines_done,
            "elapsed_s": round(self.elapsed_s, 3),
            "planned_s": total,
            "share": min(due / total, 1.0) if total else 0.0,
            "remaining_s": max((total - due) * slower, 0.0),
            "trims": self.trims,
            "holds": self.holds,
            "alarms": self.alarms,
            "asks": self.asks,
            "probed": self.probed,
            "at_rest": self.at_rest,
        }


def _at_rest(link: Link) -> bool:
    return link.status is not None and link.status.state == "idle"


def _blocks_in_plan(link: Link) -> int:
    """Return how many answered lines may still wait in the controller's plan."""
    status, most = link.status, (link.blocks or _USUAL_BLOCKS - 1) + 1
    if status is not None and status.blocks is not None:
        return max(most - status.blocks, 0)
    return 0 if _at_rest(link) else most
