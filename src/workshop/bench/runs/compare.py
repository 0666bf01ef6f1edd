"""Hold what a stand-in burned against the plan, and draw both."""

import io
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from engraving.cards import card_patches, lay_out
from engraving.dots import BitGrid
from engraving.gcode import asked_name
from engraving.geometry.shrinking import shrunk
from engraving.jobspec import JobSpec
from engraving.place import frame_of, piece_box, pieces, shown_piece
from workshop.bench.models import Run
from workshop.bench.runs.files import map_path
from workshop.bench.simulator_client import Witness
from workshop.bench.where import witness_of
from workshop.jobs.pictures.engine import pipeline

_MAP_PX = 1400
_WRONG_POWER = 0.1
"""Where dots differ in power, one that is off by this share of a full one is wrong."""
_HAIR_MM, _DEPTH_OFF_MM = 0.02, 0.03


def compare(run: Run, spec: JobSpec) -> None:
    """Hold a stand-in's burn map against the planned dots and keep its picture."""
    witness = witness_of(run.address)
    if witness is None:
        return
    if spec.machine.touches and spec.card is not None:
        _compare_lines(run, witness, spec)
        return
    if spec.machine.touches:
        _compare_touched(run, witness, spec)
        return
    if spec.card is not None:
        planned, wrong = _compare_card(witness, spec)
        energy, one_dot, _ = _burned_piece(witness, spec)
    else:
        counts = [_compare_piece(witness, piece) for piece in pieces(spec)]
        planned, wrong = sum(one for one, _ in counts), sum(one for _, one in counts)
        energy, one_dot, _ = _burned_piece(witness, shown_piece(spec))
    run.note(dots_planned=planned, dots_wrong=wrong)
    level = np.clip(energy / one_dot, 0, 1)
    if spec.mount.rotary:
        level = np.rot90(level, -1 if spec.mount.top == "left" else 1)
    map_path(run).write_bytes(_averaged_png(level, spec))


def _burned_piece(
    witness: Witness, spec: JobSpec
) -> tuple[NDArray[np.float32], float, BitGrid]:
    """Return a piece's burned energy on its grid, that of one dot, and its plan."""
    spec, bits = pipeline().on_machine(spec)
    share = spec.burn.power / 100
    times = spec.burn.passes * (2 if spec.burn.cross else 1)
    if spec.marking.way == "relief" and spec.card is None:
        times = 1
    one_dot = share * spec.size.along_mm / spec.burn.speed_mm_s * times
    if spec.burn.rows == "y":
        one_dot *= spec.size.pitch_mm / spec.size.along_mm
    return _seen_by_operator(witness, spec, bits.rows, bits.cols), one_dot, bits


def _compare_piece(witness: Witness, spec: JobSpec) -> tuple[int, int]:
    """Return how many dots a piece has, and how many differ from the plan."""
    if not spec.raster:
        return 0, 0
    energy, one_dot, bits = _burned_piece(witness, spec)
    if spec.marking.way == "relief":
        return bits.count, _wrong_passes(spec, energy / one_dot)
    if bits.power is None:
        wrong = (energy > one_dot / 2) != bits.unpack().astype(bool)
    else:
        planned = bits.strengths(0, 0, bits.cols, bits.rows)
        wrong = np.abs(energy / one_dot - planned) > _WRONG_POWER
    return bits.count, int(np.count_nonzero(wrong & _beside_outlines(spec, bits)))


def _wrong_passes(spec: JobSpec, fired: NDArray[np.float32]) -> int:
    """Return how many dots were fired at more or less often than planned.

    Cleaning passes are weak; what they add is taken off.
    """
    plan, part = pipeline().relief(spec), spec.marking.relief
    plan = plan.mirrored() if spec.mirrored else plan
    if part.how != "passes":
        return int(np.count_nonzero(np.abs(fired - plan.depths / plan.per_pass_mm) > 0.3))
    if part.clean_every:
        weak = part.clean_power / spec.burn.power
        weak *= spec.burn.speed_mm_s / part.clean_speed_mm_s
        fired = fired - weak * (plan.passes // part.clean_every)
    return int(np.count_nonzero(np.rint(fired) != plan.passes))


def _compare_touched(run: Run, witness: Witness, spec: JobSpec) -> None:
    """Hold what a tool carved or scratched against its plan, and keep its picture.

    A dot counts as wrong where it was to be cut all over and is not, or where nothing
    was to be and something is.
    """
    share = pipeline().cut_share(spec)
    if spec.mirrored:
        share = share[:, ::-1]
    made = _made(witness, spec)
    wrong = ((share >= 1) & (made <= 0)) | ((share <= 0) & (made > _HAIR_MM))
    wrong &= _beside_outlines(spec, BitGrid.from_dots((share > 0.5).astype(np.uint8)))
    run.note(
        dots_planned=int(np.count_nonzero(share >= 0.5)),
        dots_wrong=int(np.count_nonzero(wrong)),
    )
    map_path(run).write_bytes(_averaged_png((made > 0).astype(np.float32), spec))


def _compare_lines(run: Run, witness: Witness, spec: JobSpec) -> None:
    """Hold how deep each line of a tool's card lies against its plan."""
    made, layout = _made(witness, spec), lay_out(spec)
    pitch, wrong = spec.size.pitch_mm, 0
    for cell in layout.cells:
        x, y = (round(one / pitch) for one in cell.middle)
        near = made[max(made.shape[0] - y - 2, 0) : made.shape[0] - y + 2, x - 2 : x + 2]
        wrong += not abs(float(near.max()) - cell.depth_mm) < _DEPTH_OFF_MM + pitch / 2
    run.note(dots_planned=len(layout.cells), dots_wrong=wrong)
    map_path(run).write_bytes(_averaged_png((made > 0).astype(np.float32), spec))


def _made(witness: Witness, spec: JobSpec) -> NDArray[np.float32]:
    """Return how deep a tool carved the job's own grid, in mm, as the bed is seen."""
    tool = spec.marking.carving.tool
    changed_for = {
        asked_name(one.tool.name): (one.tool.angle_deg, one.tool.tip_mm)
        for one in spec.operations
        if one.tool is not None
    }
    made = witness.depths(
        _where(spec, spec.size.rows, spec.size.cols), angle_deg=tool.angle_deg,
        tip_mm=tool.tip_mm, tools=changed_for, material=spec.substrate.name,
    )  # fmt: skip
    frame = frame_of(spec.machine)
    return made[:: frame.sign_y, :: frame.sign_x]


def _beside_outlines(spec: JobSpec, bits: BitGrid) -> NDArray[np.bool_]:
    """Return which dots no outline runs over; those it does run over cannot be told."""
    run_over = np.zeros((bits.rows, bits.cols), np.uint8)
    along, pitch = spec.size.cell_mm
    for outline in spec.outlines:
        # The picture's plan knows nothing of the letters.
        wide = 3 + 2 * round(outline.deepest_mm / pitch) * (outline.kind == "inside")
        for path in pipeline().followed(spec, outline).paths if outline.on else []:
            # Both as if the piece lay straight.
            x = (path[:, 0] - spec.place.x_mm) / along
            y = bits.rows - (path[:, 1] - spec.place.y_mm) / pitch
            points = np.rint(np.stack([x, y], axis=1) - 0.5).astype(np.int32)
            cv2.polylines(run_over, [points], False, 1, wide)
    return run_over == 0


def _compare_card(witness: Witness, spec: JobSpec) -> tuple[int, int]:
    """Return how many dots a card's patches have, and how many differ from the plan."""
    planned = wrong = 0
    for field in card_patches(spec):
        path, bits, patch = field.path, field.bits, field.spec
        left = min(path.left_mm, path.left_mm + bits.cols * path.step_x_mm)
        low = path.first_row_mm + (bits.rows - 1) * path.step_y_mm
        front = min(path.first_row_mm, low) - abs(path.step_y_mm) / 2
        cell = patch.size.cell_mm
        energy = witness.energy_map(left, front, cell, (bits.rows, bits.cols))
        ahead, down = (1 if path.step_x_mm > 0 else -1), (1 if path.step_y_mm < 0 else -1)
        burn = patch.burn
        one_dot = burn.power / 100 * cell[0] / burn.speed_mm_s * burn.passes
        burned = energy[::down, ::ahead] > one_dot / 2
        wrong += int(np.count_nonzero(burned != bits.unpack().astype(bool)))
        planned += bits.count
    return planned, wrong


def _averaged_png(level: NDArray[np.float32], spec: JobSpec) -> bytes:
    """Return burned shares (rows, cols) as a gray PNG no longer than `_MAP_PX`."""
    small = shrunk(level, _MAP_PX)
    light = small if spec.polarity == "lightens" else 1 - small
    stream = io.BytesIO()
    Image.fromarray(np.rint(255 * light).astype(np.uint8)).save(stream, "PNG")
    return stream.getvalue()


def _seen_by_operator(
    witness: Witness, spec: JobSpec, rows: int, cols: int
) -> NDArray[np.float32]:
    """Return the energy on the job's own grid, row 0 away from the operator."""
    frame, at = frame_of(spec.machine), _where(spec, rows, cols)
    energy = witness.energy_map(
        at["left"], at["front"], at["cell"], (rows, cols), at["turn"]
    )
    return energy[:: frame.sign_y, :: frame.sign_x]


def _where(spec: JobSpec, rows: int, cols: int) -> dict[str, Any]:
    """Return where a job's own grid lies in the machine's frame."""
    frame, cell = frame_of(spec.machine), spec.size.cell_mm
    wide, deep = cols * cell[0], rows * cell[1]
    x0, y0 = frame.to_machine(spec.place.x_mm, spec.place.y_mm)
    x1, y1 = frame.to_machine(spec.place.x_mm + wide, spec.place.y_mm + deep)
    degrees = spec.place.turn_deg * frame.sign_x * frame.sign_y
    turn = degrees, *frame.to_machine(*piece_box(spec.size, spec.place).middle)
    return {
        "left": min(x0, x1), "front": min(y0, y1), "cell": cell, "rows": rows,
        "cols": cols, "turn": turn,
    }  # fmt: skip


def plan_picture(run: Run) -> bytes:
    """Return the planned dots of a burn, as large as its map."""
    spec = shown_piece(JobSpec.model_validate(run.spec))
    if spec.machine.touches and spec.card is None:
        share = pipeline().cut_share(spec)
        return _averaged_png(share[:, ::-1] if spec.mirrored else share, spec)
    bits = pipeline().burned(spec)
    return _averaged_png(bits.strengths(0, 0, bits.cols, bits.rows), spec)
