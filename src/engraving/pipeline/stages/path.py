"""The tool path: rows and strokes, pocket by pocket, timed and looked at."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from engraving.cards import record_card
from engraving.dots import BitGrid
from engraving.gcode import write_moves
from engraving.jobspec import MachinePart, OperationPart, ToolPart
from engraving.motion import Clock, Estimate
from engraving.pipeline.pathmap import Looked, Painter, PathMap, Stretch, stretches
from engraving.pipeline.sideview import SideView, SideViewer
from engraving.pipeline.stage import Asked, stage, value
from engraving.pipeline.stages.dots import card
from engraving.pipeline.stages.marked import burned
from engraving.pipeline.stages.outline import followed, spans
from engraving.pipeline.stages.settings import FIXTURE
from engraving.pipeline.stages.ways.dots import MOVES_BY, WRITTEN, laid, mounting, writing
from engraving.pipeline.stages.ways.drag import PLUNGE_MM_S
from engraving.pipeline.stages.ways.inside import inside_moves
from engraving.pipeline.stages.ways.registry import WAYS
from engraving.pipeline.stages.ways.way import way_name
from engraving.place import (
    Box,
    as_written,
    frame_of,
    job_zero,
    piece_box,
    pieces,
    touched_off_at,
)
from engraving.sending import Sending
from engraving.strips import InTurn
from engraving.toolpath import Moves, record_strokes, turned_moves
from engraving.toolpath.levelled import Level, levelled
from engraving.toolpath.tool import ToolRun, record_tool

_A_WHILE_S = 0.5
"""Shorter bands are covered by what a controller holds ready."""


@value(reads=("operations",))
def worked(asked: Asked) -> tuple[OperationPart, ...]:
    """What is done to the blank, without the names of it."""
    aside = {
        "name": "",
        "seen": True,
        "lock_scale": True,
        "recipe": "",
        "recipe_version": 0,
    }
    return tuple(one.model_copy(update=aside) for one in asked.spec.operations)


@dataclass(frozen=True)
class Turn:
    """How a piece is turned on the machine: about which point, by how many degrees."""

    middle: tuple[float, float]
    angle_deg: float
    piece_deg: float


@value(reads=(*MOVES_BY, "place", "size.width_mm", "size.height_mm"))
def turn(asked: Asked) -> Turn | None:
    """How the piece lies turned; None where it lies straight."""
    spec = asked.spec
    if not spec.place.turn_deg:
        return None
    frame = frame_of(spec.machine)
    middle = frame.to_machine(*piece_box(spec.size, spec.place).middle)
    angle = spec.place.turn_deg * frame.sign_x * frame.sign_y
    return Turn(middle, angle, spec.place.turn_deg)


@stage(needs=(burned, mounting))
def on_machine(asked: Asked) -> BitGrid:
    """Return the dots as they lie on the machine."""
    return laid(asked.get(burned), asked.get(mounting))


@value(reads=("machine.kind", "machine.depth_mm"))
def touching_mm(asked: Asked) -> float:
    """How deep a tool that touches follows an outline; 0 for a beam."""
    machine = asked.spec.machine
    return machine.depth_mm if machine.touches else 0.0


@value(reads=("machine.kind", "marking.carving"))
def usual_tool(asked: Asked) -> ToolPart | None:
    """What turns in the spindle where an operation has no tool of its own."""
    vtool = asked.spec.machine.kind == "vtool"
    return asked.spec.marking.carving.tool if vtool else None


_WAYS = tuple(one.moves for one in WAYS.values())


@stage(
    needs=(
        way_name, writing, turn, touching_mm, usual_tool, followed, inside_moves, *_WAYS,
    ),
    kind="passing",
)  # fmt: skip
def operation_moves(asked: Asked, operation: OperationPart) -> Iterator[Moves]:
    """Yield the moves of one operation, the piece not yet turned on the bed.

    What the machine cannot do has none: a beam does not carve, a tool burns no dots.
    """
    machine, lies = asked.get(writing), asked.get(turn)
    if operation.kind == "raster":
        way = WAYS[asked.get(way_name)]
        if way.touches == machine.touches:
            yield from asked.get(way.moves)
        return
    if operation.kind == "inside":
        if machine.touches:
            yield from asked.get(inside_moves, operation)
        return
    paths = asked.get(followed, operation).paths
    if machine.touches:
        tool = asked.get(usual_tool)
        own = operation.model_copy(update={"tool": tool and (operation.tool or tool)})
        yield from _touched(paths, machine, own, asked.get(touching_mm))
        return
    z_mm = operation.focus_mm if machine.z_axis else 0.0
    straight = (lies.piece_deg if lies else 0.0) if operation.kind == "hatch" else None
    for _ in range(operation.passes if paths else 0):
        yield record_strokes(
            paths, machine, operation.speed_mm_s, operation.power, z_mm, straight
        )


_PIECES = (*FIXTURE, "lettering", "blank.width_mm", "blank.height_mm")
"""What says where every piece lies."""


@value(reads=("machine.kind", "marking.carving", "size", "place", *_PIECES))
def level(asked: Asked) -> Level | None:
    """The heights of the bed that a V-tool follows, 0 where it is touched off."""
    spec = asked.spec
    part = spec.marking.carving.level
    if spec.machine.kind != "vtool" or part is None or not part.heights_mm:
        return None
    return Level(part, touched_off_at(spec))


@stage(needs=(card, worked, turn, operation_moves), kind="passing")
def piece_moves(asked: Asked) -> Iterator[Moves]:
    """Yield one piece's tool path in bands, each of whole rows or strokes."""
    swatches, turned = asked.get(card), asked.get(turn)
    if swatches is not None:
        for moves in record_card(as_written(swatches)):
            yield _turned(moves, turned)
        return
    for at, operation in enumerate(asked.get(worked)):
        for moves in asked.get(operation_moves, operation) if operation.on else ():
            yield replace(_turned(moves, turned), operation=at)


def _turned(moves: Moves, by: Turn | None) -> Moves:
    return moves if by is None else turned_moves(moves, by.middle, by.angle_deg)


def _touched(
    paths: Sequence[NDArray[np.float64]],
    machine: MachinePart,
    operation: OperationPart,
    depth_mm: float,
) -> Iterator[Moves]:
    """Yield an outline's moves of a tool that touches, each pass as much deeper."""
    for number in range(operation.passes if paths else 0):
        low = -depth_mm * (number + 1 if machine.kind == "vtool" else 1)
        strokes = [np.column_stack([one, np.full(len(one), low)]) for one in paths]
        run = ToolRun(operation.speed_mm_s, PLUNGE_MM_S, operation.tool)
        yield from record_tool(strokes, machine, run)


@stage(
    reads=_PIECES,
    needs=(piece_moves, level, writing),
    kind="passing",
    of_pieces=True,
)
def bands(asked: Asked) -> Iterator[Moves]:
    """Yield the job's tool path, pocket by pocket, as the bed lies under it."""
    heights = asked.get(level)
    for moves in _lying(asked):
        if heights is not None:
            yield levelled(moves, heights, asked.get(writing))
        else:
            yield moves


def _lying(asked: Asked) -> Iterator[Moves]:
    """Yield all pieces' moves, waiting between pockets where that is wanted."""
    spec = asked.spec
    if spec.fixture is None:
        yield from asked.get(piece_moves)
        return
    for i, piece in enumerate(pieces(spec)):
        for j, moves in enumerate(asked.of_piece(piece, piece_moves)):
            waits = spec.fixture.pause and i > 0 and j == 0
            yield replace(moves, waits=waits, pocket=i)


_ZERO = (*WRITTEN, *FIXTURE, "lettering", "artwork")


@dataclass(frozen=True)
class Timing:
    """A machine's clock: accelerations, travel speed, corners, start, moves planned."""

    accelerations: tuple[float, float]
    rapid_mm_s: float
    zero: tuple[float, float]
    junction_mm: float
    look_ahead: int
    z_axis: tuple[float, float]

    def clock(self) -> Clock:
        """Return the clock, not yet begun."""
        return Clock(
            self.accelerations, self.rapid_mm_s, self.zero, self.junction_mm,
            self.look_ahead, self.z_axis,
        )  # fmt: skip


@value(reads=_ZERO)
def timing(asked: Asked) -> Timing:
    """How the machine's head moves, and where it stands at the start."""
    machine = asked.spec.machine
    return Timing(
        machine.accelerations,
        machine.rapid_mm_s,
        job_zero(asked.spec),
        machine.junction_mm,
        machine.look_ahead,
        (machine.max_speed_z_mm_s, machine.acceleration_z_mm_s2),
    )


@stage(needs=(bands, timing))
def estimate(asked: Asked) -> Estimate:
    """Return the time and extent of the job's tool path."""
    clock, beside = asked.get(timing).clock(), InTurn()
    for moves in asked.get(bands):
        beside.call(partial(clock.add, moves))
    beside.wait()
    return clock.estimate()


_COLUMNS = 600


@stage(needs=(bands, estimate, writing))
def side_view(asked: Asked) -> SideView | None:
    """Return how low a tool goes along the bed's width; None of a beam."""
    frame = frame_of(asked.get(writing))
    left, _, right, _ = asked.get(estimate).bounds_mm
    ends = sorted((one - frame.offset_x) * frame.sign_x for one in (left, right))
    viewer = SideViewer(ends[0], max(ends[1] - ends[0], 1e-3), _COLUMNS, frame)
    for moves in asked.get(bands):
        viewer.add(moves)
    return viewer.found()


_KEPT_MOVES = 4_000_000
"""Longer paths are walked anew for each window: kept, they would push all else out."""


@stage(needs=(bands, timing))
def walked(asked: Asked) -> tuple[Stretch, ...] | None:
    """Return all moves and how long each takes, so that another window is only painted."""
    clock, found, count = asked.get(timing).clock(), list[Stretch](), 0
    for moves in asked.get(bands):
        count += len(moves)
        if count > _KEPT_MOVES:
            return None
        found += stretches(moves, clock.add(moves))
    return tuple(found)


@stage(needs=(bands, timing, estimate, walked))
def path_map(asked: Asked, looked: Looked) -> PathMap:
    """Return when each spot of a window is burned or passed over.

    Positions are the machine's; of a rotary, mm of the surface.
    """
    timed = asked.get(timing)
    painter = Painter(looked, timed.zero, asked.get(estimate).seconds)
    known = asked.get(walked)
    if known is None:
        clock = timed.clock()
        for moves in asked.get(bands):
            painter.add(moves, clock.add(moves))
    for stretch in known or ():
        painter.paint(stretch)
    return painter.found()


@dataclass(frozen=True)
class Sent:
    """What a serial link makes of a job.

    Attributes
    ----------
    bytes_s : float
        Bytes of G-code that are burned a second, where most are.
    wait_s : float
        How long the head waits for lines, in all.
    """

    bytes_s: float
    wait_s: float


@stage(
    reads=(*_ZERO, "machine.line_end", "machine.beam", "machine.link_baud"),
    needs=(bands, timing),
)
def sent(asked: Asked) -> Sent | None:
    """Return how a job's lines come over the machine's serial link; None without one."""
    baud = asked.spec.machine.link_baud
    if not baud:
        return None
    clock, most = asked.get(timing).clock(), 0.0
    texts: list[bytes] = []
    sending = Sending(baud, asked.spec.machine.look_ahead)
    for moves in write_moves(asked.spec, asked.get(bands), texts.append):
        each, text = clock.add(moves), b"".join(texts)
        texts.clear()
        ends = np.flatnonzero(np.frombuffer(text, np.uint8) == ord("\n")) + 1
        # Lines before the moves, such as a wait, are sent with the first.
        ends = ends[len(ends) - len(each) :]
        sending.add(np.diff(ends, prepend=0), each)
        if each.sum() > _A_WHILE_S:
            most = max(most, len(text) / float(each.sum()))
    return Sent(most, sending.wait_s)


@stage(reads=(*FIXTURE, "lettering"), needs=(spans,), kind="passing", of_pieces=True)
def reaches(asked: Asked) -> dict[int, Box]:
    """Return where the head goes for each outline, all pockets together."""
    if asked.spec.fixture is None:
        return asked.get(spans)
    found: dict[int, Box] = {}
    for piece in pieces(asked.spec):
        for at, span in asked.of_piece(piece, spans).items():
            found[at] = found[at].around(span) if at in found else span
    return found
