"""The simulated machine: takes lines, keeps a queue, moves, remembers the burn."""

import zlib
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from standins.controller.burnmap import burn_map
from standins.controller.interpreter import NO_CONTACT, Block, FaultError, Interpreter
from standins.controller.motion import (
    BEAM_S,
    CLOCK,
    HEAD_X,
    HEAD_Y,
    HEAD_Z,
    SPEED,
    STROKE_FIELDS,
    brake,
    exit_speeds,
    new_state,
    travel,
)
from standins.controller.plan import Plan

_SMALL_PLAN = 64


@dataclass(frozen=True)
class Settings:
    """The machine's data: mm, mm/s, mm/s².

    ``junction`` is how far it may leave a corner aside to take it faster; 0 is a
    stop. ``look_ahead`` is how many blocks are planned together. ``delay_ms`` and
    ``slack_mm`` are what its owner has to find out: the beam answers late, and
    the drive has play when it turns round. ``y_factor`` and
    ``a_factor`` say what a fitted rotary makes of Y and A; see `Interpreter`.
    ``rapid_z`` and ``acceleration_z`` are those of the height. ``tool`` is what the machine
    holds: a "beam", a "spindle" with a cutter in it, or a "point" under a spring.
    ``surface`` is the height of the blank's, and by how much it rises along x and y.
    ``start`` is where somebody drove the head to. ``travel`` is how far the axes
    reach in mm; 0 is unknown. Without ``laser`` the beam keeps its power at any speed,
    on travel moves too.
    """

    acceleration: float = 3000.0
    rapid: float = 300.0
    s_max: float = 1000.0
    acceleration_y: float = 0.0
    junction: float = 0.01
    look_ahead: int = 2048
    delay_ms: float = 0.0
    slack_mm: float = 0.0
    y_factor: float = 1.0
    a_factor: float = 0.0
    start: tuple[float, float] = (0.0, 0.0)
    travel: tuple[float, float] = (0.0, 0.0)
    laser: bool = True
    rapid_z: float = 10.0
    acceleration_z: float = 200.0
    tool: str = "beam"
    surface: tuple[float, float, float] = (0.0, 0.0, 0.0)

    @property
    def between_plans(self) -> int:
        """How many blocks are run before all in sight are planned anew.

        A small plan is made anew for every block; of a large one half is run.
        """
        return max(self.look_ahead // 2, 1) if self.look_ahead > _SMALL_PLAN else 1

    @property
    def accelerations(self) -> tuple[float, float, float]:
        """Of X, of Y and of the height."""
        own = self.acceleration
        return own, self.acceleration_y or own, self.acceleration_z

    @property
    def play(self) -> tuple[float, float]:
        """The delay in s and half the slack in mm."""
        return self.delay_ms / 1000, self.slack_mm / 2


class Machine:
    """A head on two axes with a beam.

    Parameters
    ----------
    settings : Settings
        The machine's data.
    """

    def __init__(self, settings: Settings | None = None) -> None:
        self.settings = settings or Settings()
        self.feed_share = self.power_share = 1.0
        self.slip = 0.0, 0.0
        self.height_off = 0.0
        self._tools = [""]
        self.reset()

    def reset(self) -> None:
        """Forget program, queue and burn; the head is where it starts, the clock 0."""
        self._interpreter = self._fresh(*self.settings.start)
        self._queue = Plan()
        self._state = new_state()
        self._state[HEAD_X], self._state[HEAD_Y] = self.settings.start
        self._strokes: list[NDArray[np.float64]] = []
        self._cuts: list[NDArray[np.float64]] = []
        self.held = False
        self.standing_s = 0.0
        self.touched: tuple[float, float, float] | None = None

    def stand_at(self, other: "Machine") -> None:
        """Stand as high as another did, and know the height it knew as zero."""
        z = other.place_mm[2]
        self._state[HEAD_Z] = self._interpreter.z = z
        self._interpreter.offset_z = other.words.offset_z

    def fit_rotary(self, y_factor: float, a_factor: float) -> None:
        """Fit another rotary, or none, to the machine at rest; what lies on it stays."""
        self.settings = replace(self.settings, y_factor=y_factor, a_factor=a_factor)
        self._interpreter.y_factor, self._interpreter.a_factor = y_factor, a_factor

    def _fresh(self, x: float, y: float) -> Interpreter:
        """Return the state at a program's start, the head where it is."""
        data = self.settings
        return Interpreter(data.s_max, data.y_factor, data.a_factor, x, y)

    @property
    def clock_s(self) -> float:
        """Simulated seconds spent in motion."""
        return float(self._state[CLOCK])

    @property
    def beam_s(self) -> float:
        """Simulated seconds with the beam on."""
        return float(self._state[BEAM_S])

    @property
    def position_mm(self) -> tuple[float, float]:
        """Where the head is."""
        return float(self._state[HEAD_X]), float(self._state[HEAD_Y])

    @property
    def place_mm(self) -> tuple[float, float, float]:
        """Where the head is, and how high."""
        return *self.position_mm, float(self._state[HEAD_Z])

    @property
    def queued(self) -> int:
        """Blocks waiting."""
        return len(self._queue)

    @property
    def ended(self) -> bool:
        """Whether the program said it has ended."""
        return self._interpreter.ended

    @property
    def scorching(self) -> float:
        """Share of full power that burns one spot: the head stands, the beam is on."""
        state = self._interpreter
        on = state.beam == 3 and state.motion == 1 and not self._queue and not self.held
        return min(state.s / state.s_max, 1.0) if on else 0.0

    @property
    def power_now(self) -> float:
        """Share of full power that the beam has at this moment."""
        first, _ = self._ahead(1)
        moving = len(first) > 0 and self.speed > 0 and not self.held
        return float(first[0, 3]) if moving else self.scorching

    @property
    def lit(self) -> bool:
        """Whether the beam is on at this moment."""
        return self.power_now > 0

    @property
    def speed(self) -> float:
        """How fast the head moves, in mm/s."""
        return float(self._state[SPEED])

    @property
    def words(self) -> Interpreter:
        """The modal state, as the last line left it."""
        return self._interpreter

    def take(self, text: str) -> None:
        """Take one line.

        Raises
        ------
        FaultError
            When the line cannot be understood.
        """
        if self._interpreter.ended:
            self._begin_again()
        block = self._interpreter.line(text)
        if self._interpreter.probing and block is not None:
            block = self._probed(block)
        if self._interpreter.waits:
            self._interpreter.waits = False
            self._queue.add_wait()
        if block is not None:
            self._queue.add(block)

    def _probed(self, block: Block) -> Block:
        """Return the move down until the tool touches, and remember where that is.

        Raises
        ------
        FaultError
            When it would not touch on the way.
        """
        state = self._interpreter
        state.probing = False
        touches = float(self.height_at(block.x, block.y)) - self.longer
        if block.z > touches:
            raise FaultError(NO_CONTACT)
        state.z = touches
        self.touched = block.x, block.y, touches
        return block._replace(z=touches, power=0.0, feed=state.feed)

    def _begin_again(self) -> None:
        """Start a new program where the last one left the head."""
        before = self._interpreter
        self._interpreter = self._fresh(before.x, before.y)
        self._interpreter.z, self._interpreter.offset_z = before.z, before.offset_z

    def run(self, seconds: float = float("inf"), *, keep: int = 0) -> float:
        """Move for at most so many simulated seconds; return how many it took.

        Parameters
        ----------
        seconds : float
            The budget.
        keep : int
            How many of the last blocks to leave in the queue. What is planned
            against a queue's end stops there, so while more lines may come
            some blocks are only looked at, lest a stop appear that the
            program lacks.
        """
        before = self.clock_s
        while len(self._queue) > keep and not self.held:
            if self._queue.waits:  # M0: until somebody resumes
                self._queue.go_past_wait()
                self.held = True
                break
            left = before + seconds - self.clock_s
            if left <= 0 or not self._run_some(keep, left):
                break
        return self.clock_s - before

    def _run_some(self, keep: int, budget: float) -> bool:
        blocks, follows = self._ahead(self.settings.look_ahead)
        seen = len(blocks)
        ready = min(len(self._queue) - keep, seen)
        waits = self._queue.waits_after(seen)
        if len(self._queue) > seen and not waits:  # more lie beyond what is in sight
            ready = min(ready, self.settings.between_plans)
        exits = np.zeros(seen)
        start = self.place_mm
        able, junction = self.settings.accelerations, self.settings.junction
        exit_speeds(blocks, start, able, junction, exits)
        strokes = np.zeros((4 * ready + 4096, STROKE_FIELDS))
        before = self.clock_s
        done, written = travel(
            blocks[:ready],
            follows,
            exits,
            self._state,
            strokes,
            self.settings.accelerations,
            self.settings.play,
            budget,
        )
        self._queue.done(done)
        if self.settings.tool != "beam":
            self._note_cuts(start, blocks[:done])
        elif written:
            strokes[:written, :4] += self.slip * 2
            strokes[:written, 5] += self.height_off
            self._strokes.append(strokes[:written].copy())
        return bool(done) or self.clock_s > before

    def _note_cuts(
        self, start: tuple[float, float, float], ran: NDArray[np.float64]
    ) -> None:
        """Remember where a tool went below the surface, or the bed's own zero."""
        ends = np.vstack([start, ran[:, [0, 1, 4]], self.place_mm])
        ends[:, :2] += self.slip
        ends[:, 2] += self.height_off + self.longer
        which = np.full((len(ends) - 1, 1), len(self._tools) - 1.0)
        cuts = np.hstack([ends[:-1], ends[1:], which])
        below = ends[:, 2] < self.height_at(ends[:, 0], ends[:, 1])
        deep = below[:-1] | below[1:]
        if deep.any():
            self._cuts.append(cuts[deep])

    def height_at(self, x: Any, y: Any) -> Any:
        """Return the height of the blank's surface at a place."""
        level, along_x, along_y = self.settings.surface
        return level + along_x * x + along_y * y

    def cuts(self) -> NDArray[np.float64]:
        """Return all ways of a tool below the surface, shape (n, 7): x, y, z twice.

        And which of the tools it was, by the order in which they were taken up.
        """
        return np.concatenate(self._cuts) if self._cuts else np.zeros((0, 7))

    def take_up(self, tool: str) -> None:
        """Hold another tool; its tip is not where the last one's was."""
        if tool != self._tools[-1]:
            self._tools.append(tool)

    @property
    def tools(self) -> tuple[str, ...]:
        """All tools it has held, in their order; the first has no name."""
        return tuple(self._tools)

    @property
    def longer(self) -> float:
        """By how many mm the tool's tip lies above that of the first one."""
        if len(self._tools) == 1:
            return 0.0
        return zlib.crc32(self._tools[-1].encode()) % 600 / 100 - 3

    def _ahead(self, most: int) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
        """Return blocks as they are run: x, y, speed, power, height; and what follows."""
        blocks, follows = self._queue.ahead(most)
        blocks[:, 2] *= self.feed_share
        blocks[blocks[:, 2] == 0, 2] = self.settings.rapid
        self._hold_height(blocks)
        blocks[:, 3] = np.minimum(blocks[:, 3] * self.power_share, 1.0)
        return blocks, follows & self.settings.laser

    def _hold_height(self, blocks: NDArray[np.float64]) -> None:
        """Lower speeds to what the height's axis can do."""
        ends = np.vstack([self.place_mm, blocks[:, [0, 1, 4]]])
        ways = np.diff(ends, axis=0)
        rises = np.abs(ways[:, 2])
        long = np.sqrt((ways**2).sum(axis=1))
        steep = rises > 1e-9
        most = self.settings.rapid_z * long[steep] / rises[steep]
        blocks[steep, 2] = np.minimum(blocks[steep, 2], most)

    def stand(self, seconds: float) -> None:
        """Let time pass at rest; a beam that is on burns its spot."""
        self.standing_s += seconds * self.scorching

    def brake(self) -> float:
        """Put the beam out and come to rest; return how many seconds that takes."""
        before, self.held = self.clock_s, True
        if self.speed > 0:
            blocks, _ = self._ahead(self.settings.look_ahead)
            self._queue.done(brake(blocks, self._state, self.settings.accelerations))
        return self.clock_s - before

    def jog(self, x: float, y: float, feed: float) -> None:
        """Queue a straight move with the beam off, in mm and mm/s."""
        state = self._interpreter
        state.x, state.y = x, y
        self._queue.add(Block(x, y, feed, 0.0, follows=False, z=state.z))

    def move_to(self, x: float, y: float) -> None:
        """Be told that the head is there now, at rest; the queue is dropped."""
        self._state[HEAD_X], self._state[HEAD_Y] = x, y
        self.stop()

    def stop(self) -> None:
        """Drop what is queued; the head stays where it is."""
        self._queue.clear()
        x, y, z = self.place_mm
        zero = self._interpreter.offset_z
        self._interpreter = self._fresh(x, y)
        self._interpreter.z, self._interpreter.offset_z = z, zero
        self._state[SPEED] = 0.0

    def strokes(self) -> NDArray[np.float64]:
        """Return all strokes of the beam, shape (n, 6); see `burnmap`."""
        if len(self._strokes) > 1:
            self._strokes = [np.concatenate(self._strokes)]
        return self._strokes[0] if self._strokes else np.zeros((0, STROKE_FIELDS))

    def map(
        self,
        left: float,
        front: float,
        cell: tuple[float, float],
        shape: tuple[int, int],
        turn: tuple[float, float, float] = (0.0, 0.0, 0.0),
    ) -> NDArray[np.float32]:
        """Return energy by cell; see `burn_map`."""
        return burn_map(self.strokes(), left, front, cell, shape, turn)
