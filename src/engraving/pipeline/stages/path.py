"""The tool path: rows and strokes, pocket by pocket, timed and looked at."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from engraving.cards import record_card
from engraving.dots import BitGrid
from engraving.gcode import write_moves
from engraving.jobspec import MachinePart, MountPart, OperationPart
from engraving.motion import Clock, Estimate
from engraving.pipeline.pathmap import Looked, Painter, PathMap
from engraving.pipeline.stage import Asked, all_but, stage, value
from engraving.pipeline.stages.dots import burned, card
from engraving.pipeline.stages.outline import followed, spans
from engraving.pipeline.stages.settings import FIXTURE, cell_mm
from engraving.place import Box, as_written, frame_of, job_zero, mounted, piece_box, pieces
from engraving.sending import Sending
from engraving.toolpath import (
    Moves,
    RasterPath,
    plan_raster,
    record,
    record_strokes,
    turned_moves,
)

_A_WHILE_S = 0.5
"""Shorter bands are covered by what a controller holds ready."""

_MOVES_BY = all_but(
    "machine", "name", "header", "footer", "air_on", "air_off", "points", "lenses",
    "lens", "rated_power_w", "lowest_power", "link_baud", "response_ms", "line_end", "beam",
    "short_names", "file_ending", "file_mb", "longest_min",
)  # fmt: skip
"""What of a machine decides how its head moves."""
_LIES = ("size", "blank", "place", "mount")
_WRITTEN = (*_MOVES_BY, *_LIES, "burn", "operations")


@value(reads=_WRITTEN)
def rows(asked: Asked) -> tuple[RasterPath, ...]:
    """How the picture's rows run on the machine."""
    return plan_raster(mounted(as_written(asked.spec)))


@value(reads=_WRITTEN)
def writing(asked: Asked) -> MachinePart:
    """The machine as it moves, with as many decimals as the job needs."""
    return as_written(asked.spec).machine


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


@value(reads=(*_MOVES_BY, "place", "size.width_mm", "size.height_mm"))
def turn(asked: Asked) -> Turn | None:
    """How the piece lies turned; None where it lies straight."""
    spec = asked.spec
    if not spec.place.turn_deg:
        return None
    frame = frame_of(spec.machine)
    middle = frame.to_machine(*piece_box(spec.size, spec.place).middle)
    angle = spec.place.turn_deg * frame.sign_x * frame.sign_y
    return Turn(middle, angle, spec.place.turn_deg)


@dataclass(frozen=True)
class Mounted:
    """How a wall's dots lie on the machine."""

    mount: MountPart
    along_mm: float
    pitch_mm: float


@value(reads=("mount",), needs=(cell_mm,))
def mounting(asked: Asked) -> Mounted | None:
    """How a round piece is held; None on a flat bed."""
    return (
        Mounted(asked.spec.mount, *asked.get(cell_mm)) if asked.spec.mount.rotary else None
    )


@stage(needs=(burned, mounting))
def on_machine(asked: Asked) -> BitGrid:
    """Return the dots as they lie on the machine.

    A round piece is turned a quarter, its top to the side that the mount says; at
    its seam the first rows are burned once more where an overlap is wanted.
    """
    bits, held = asked.get(burned), asked.get(mounting)
    if held is None:
        return bits
    mount = held.mount
    quarter = bits.turned(left=mount.top == "left")
    again = round(mount.overlap_mm / held.along_mm) if mount.wrap else 0
    # Rows are burned from the back forward; the seam's first ones come again in front.
    return quarter.extended(min(again, quarter.rows)) if again else quarter


def _strips(bits: BitGrid, held: Mounted | None) -> Iterator[tuple[BitGrid, int]]:
    """Yield the strips of a wall along its axis, and the column each begins at."""
    # The quarter turn has made the distance of rows the length of a dot.
    wide = round(held.mount.strip_mm / held.pitch_mm) if held is not None else 0
    if not wide or wide >= bits.cols:
        yield bits, 0
        return
    for at in range(0, bits.cols, wide):
        yield bits.columns(at, min(at + wide, bits.cols)), at


@stage(
    needs=(card, worked, rows, writing, turn, mounting, on_machine, followed),
    kind="passing",
)
def piece_moves(asked: Asked) -> Iterator[Moves]:
    """Yield one piece's tool path in bands, each of whole rows or strokes."""
    swatches, turned = asked.get(card), asked.get(turn)
    if swatches is not None:
        for moves in record_card(as_written(swatches)):
            yield _turned(moves, turned)
        return
    for at, operation in enumerate(asked.get(worked)):
        for moves in _operation_moves(asked, operation) if operation.on else ():
            yield replace(_turned(moves, turned), operation=at)


def _turned(moves: Moves, by: Turn | None) -> Moves:
    return moves if by is None else turned_moves(moves, by.middle, by.angle_deg)


def _operation_moves(asked: Asked, operation: OperationPart) -> Iterator[Moves]:
    """Yield the moves of one operation, the piece not yet turned on the bed."""
    if operation.kind == "raster":
        bits = asked.get(on_machine)
        for path in asked.get(rows):
            for strip, at in _strips(bits, asked.get(mounting)):
                yield from record(strip, path.moved_along(at))
        return
    paths = asked.get(followed, operation).paths
    machine, lies = asked.get(writing), asked.get(turn)
    z_mm = operation.focus_mm if machine.z_axis else 0.0
    straight = (lies.piece_deg if lies else 0.0) if operation.kind == "hatch" else None
    for _ in range(operation.passes if paths else 0):
        yield record_strokes(
            paths, machine, operation.speed_mm_s, operation.power, z_mm, straight
        )


@stage(
    reads=(*FIXTURE, "lettering", "blank.width_mm", "blank.height_mm"),
    needs=(piece_moves,),
    kind="passing",
    of_pieces=True,
)
def bands(asked: Asked) -> Iterator[Moves]:
    """Yield the job's tool path, pocket by pocket, waiting between where that is wanted."""
    spec = asked.spec
    if spec.fixture is None:
        yield from asked.get(piece_moves)
        return
    for i, piece in enumerate(pieces(spec)):
        for j, moves in enumerate(asked.of_piece(piece, piece_moves)):
            waits = spec.fixture.pause and i > 0 and j == 0
            yield replace(moves, waits=waits, pocket=i)


_ZERO = (*_WRITTEN, *FIXTURE, "lettering", "artwork")


@dataclass(frozen=True)
class Timing:
    """A machine's clock: accelerations, travel speed, corners, start, moves planned."""

    accelerations: tuple[float, float]
    rapid_mm_s: float
    zero: tuple[float, float]
    junction_mm: float
    look_ahead: int

    def clock(self) -> Clock:
        """Return the clock, not yet begun."""
        return Clock(
            self.accelerations, self.rapid_mm_s, self.zero, self.junction_mm,
            self.look_ahead,
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
    )


@stage(needs=(bands, timing))
def estimate(asked: Asked) -> Estimate:
    """Return the time and extent of the job's tool path."""
    clock = asked.get(timing).clock()
    for moves in asked.get(bands):
        clock.add(moves)
    return clock.estimate()


@stage(needs=(bands, timing, estimate))
def path_map(asked: Asked, looked: Looked) -> PathMap:
    """Return when each spot of a window is burned or passed over.

    Positions are the machine's; of a rotary, mm of the surface.
    """
    timed = asked.get(timing)
    clock = timed.clock()
    painter = Painter(looked, timed.zero, asked.get(estimate).seconds)
    for moves in asked.get(bands):
        painter.add(moves, clock.add(moves))
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
