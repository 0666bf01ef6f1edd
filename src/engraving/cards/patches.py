"""A card as rows of dots and strokes: what the machine burns, and its likeness."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.camera import MODULES, mark_modules
from engraving.cards.layout import MARK_MM, Cell, Layout, dose_of, lay_out, written
from engraving.cards.lines import draw_lines, record_lines
from engraving.dots import BitGrid, make_dots
from engraving.dots.power import FULL
from engraving.jobspec import CardPart, JobSpec
from engraving.lettering import Polyline
from engraving.recipe import job_dose_j_mm2
from engraving.toolpath import Moves, RasterPath, plan_raster, record, record_strokes
from engraving.units import dots_across

_BARS = 3
_RULER_MM = 5.0


@dataclass(frozen=True)
class CardPatch:
    """A patch of rows with settings of its own.

    Attributes
    ----------
    spec : JobSpec
        A job whose size, place and burn are this patch's alone.
    bits : BitGrid
        Its dots.
    path : RasterPath
        How they are burned.
    cell : Cell, optional
        The cell it belongs to; a corner mark belongs to none.
    """

    spec: JobSpec
    bits: BitGrid
    path: RasterPath
    cell: Cell | None = None


def card_patches(spec: JobSpec) -> list[CardPatch]:
    """Return all patches of a job's card, corner marks first."""
    layout = lay_out(spec)
    fields = [_mark(spec, i, x, y) for i, (x, y) in enumerate(layout.marks)]
    for cell in layout.cells:
        fields += _cell_fields(spec, cell)
    return fields


def _patch(spec: JobSpec, box: tuple[float, float, float, float], **burn: float) -> JobSpec:
    """Return the job of one patch: its box on the card, and what it burns with."""
    x, y, width, height = box
    pitch = burn.pop("pitch_mm", spec.size.pitch_mm)
    size = spec.size.model_copy(
        update={
            "width_mm": width,
            "height_mm": height,
            "pitch_mm": pitch,
            "dot_pitch_mm": None,
        }
    )
    at = {"x_mm": spec.place.x_mm + x, "y_mm": spec.place.y_mm + y}
    return spec.model_copy(
        update={
            "size": size,
            "place": spec.place.model_copy(update=at),
            "burn": spec.burn.model_copy(update=burn),
        }
    )


def _one_way(patch: JobSpec) -> RasterPath:
    return plan_raster(patch)[0]


def _mark(spec: JobSpec, number: int, x: float, y: float) -> CardPatch:
    """Return a corner mark: a square code that tells which corner it stands in."""
    card = spec.card or CardPart()
    patch = _patch(
        spec,
        (x, y, MARK_MM, MARK_MM),
        speed_mm_s=card.label_speed_mm_s,
        power=card.label_power,
        passes=1,
        focus_mm=0.0,
    )
    code = mark_modules(number)
    module = MARK_MM / MODULES
    rows, cols = (
        np.minimum((np.arange(n) + 0.5) * patch.size.pitch_mm / module, MODULES - 1).astype(
            int
        )
        for n in (patch.size.rows, patch.size.cols)
    )
    bits = BitGrid.from_dots((code[np.ix_(rows, cols)] == 0).astype(np.uint8))
    return CardPatch(patch, bits, _one_way(patch))


def _cell_fields(spec: JobSpec, cell: Cell) -> Iterator[CardPatch]:
    kind = spec.card.kind if spec.card else ""
    if kind in ("focus", "roller", "lines"):
        return
    burn = {"speed_mm_s": cell.speed_mm_s, "power": cell.power, "pitch_mm": cell.pitch_mm}
    if kind == "row-shift":
        yield from _shift_fields(spec, cell, burn)
        return
    if cell.passes:
        burn["passes"] = cell.passes
    box = (cell.x_mm, cell.y_mm, cell.width_mm, cell.height_mm)
    patch = _patch(spec, box, **burn)
    bits = _filled(patch, cell)
    for path in plan_raster(patch):
        yield CardPatch(patch, bits, path, cell)


def _filled(patch: JobSpec, cell: Cell) -> BitGrid:
    """Return a cell's dots: solid, or its share by its dot method."""
    rows, cols = patch.size.rows, patch.size.cols
    if cell.share >= 1 and not cell.method:
        return BitGrid.from_dots(np.ones((rows, cols), np.uint8))
    level = np.uint8(round(255 * (1 - cell.share)))
    dots = patch.dots
    if cell.method:
        dots = dots.model_copy(update={"method": cell.method})
    return make_dots(np.full((rows, cols), level, np.uint8), dots, patch.size.cell_mm)


def bars(cell: Cell) -> tuple[tuple[float, float], ...]:
    """Return left edge and width of a shift cell's bars, mm from the card's left."""
    width = cell.width_mm / (2 * _BARS + 1)
    return tuple((cell.x_mm + (2 * i + 1) * width, width) for i in range(_BARS))


def _shift_fields(spec: JobSpec, cell: Cell, burn: dict[str, float]) -> Iterator[CardPatch]:
    """Yield upright bars: their upper halves burned forward, their lower ones backward."""
    half = cell.height_mm / 2
    for upper in (True, False):
        box = (cell.x_mm, cell.y_mm + (half if upper else 0), cell.width_mm, half)
        patch = _patch(spec, box, **burn)
        row = np.zeros(patch.size.cols, np.uint8)
        for left, width in bars(cell):
            begin = round((left - cell.x_mm) / patch.size.along_mm)
            row[begin : begin + round(width / patch.size.along_mm)] = 1
        bits = BitGrid.from_dots(np.tile(row, (patch.size.rows, 1)))
        path = replace(_one_way(patch), both_ways=False, shift_mm=0.0)
        if not upper:
            path = replace(
                path,
                left_mm=path.left_mm + bits.cols * path.step_x_mm + cell.shift_mm,
                step_x_mm=-path.step_x_mm,
            )
            bits = bits.mirrored()
        yield CardPatch(patch, bits, path, cell)


def record_card(spec: JobSpec) -> Iterator[Moves]:
    """Yield a card's moves: letters and marks first, so that a fault shows early."""
    layout, card = lay_out(spec), spec.card
    if card is None:
        return
    if spec.machine.touches:
        yield from record_lines(spec) if card.kind == "lines" else ()
        return
    yield _letters(spec, layout, card.label_speed_mm_s, card.label_power)
    for field in card_patches(spec):
        yield from record(field.bits, field.path)
    if card.kind == "focus":
        yield from _focus_lines(spec, layout)
    if card.kind == "roller":
        strokes = _at(spec, _ruled(layout.cells[0]))
        yield record_strokes(strokes, spec.machine, spec.burn.speed_mm_s, spec.burn.power)


def _at(spec: JobSpec, strokes: list[Polyline]) -> list[Polyline]:
    corner = np.array([spec.place.x_mm, spec.place.y_mm])
    return [stroke + corner for stroke in strokes]


def _letters(spec: JobSpec, layout: Layout, speed: float, power: float) -> Moves:
    strokes = [stroke for line in layout.letters for stroke in written(line)]
    return record_strokes(_at(spec, strokes), spec.machine, speed, power)


def focus_line(cell: Cell) -> Polyline:
    """Return the line through the middle of a focus cell."""
    y = cell.middle[1]
    return np.array([[cell.x_mm, y], [cell.x_mm + cell.width_mm, y]])


def _focus_lines(spec: JobSpec, layout: Layout) -> Iterator[Moves]:
    """Yield the lines of each height; a run-up before and after keeps them even."""
    turn = spec.place.turn_deg
    for cell in layout.cells:
        z = cell.z_mm if spec.machine.z_axis else 0.0
        (line,) = _at(spec, [focus_line(cell)])
        speed = spec.burn.speed_mm_s
        yield record_strokes([line], spec.machine, speed, cell.power, z, run_up_deg=turn)


def _ruled(cell: Cell) -> list[Polyline]:
    """Return a square and a scale along its left and lower side, a tick each mm."""
    x, y, side = cell.x_mm, cell.y_mm, cell.width_mm
    square = [[x, y], [x + side, y], [x + side, y + side], [x, y + side], [x, y]]
    strokes = [np.array(square)]
    for i in range(int(side) + 1):
        tick = _RULER_MM if i % 10 == 0 else _RULER_MM * (0.7 if i % 5 == 0 else 0.4)
        strokes += [
            np.array([[x, y + i], [x + tick, y + i]]),
            np.array([[x + i, y], [x + i, y + tick]]),
        ]
    return strokes


def fastest_mm_s(spec: JobSpec) -> float:
    """Return the fastest speed a job's rows run at."""
    if spec.card is None:
        return spec.burn.speed_mm_s
    speeds = [cell.speed_mm_s for cell in lay_out(spec).cells]
    return max(*speeds, spec.card.label_speed_mm_s)


def weakest_power(spec: JobSpec) -> float:
    """Return the weakest power a job asks for, in %."""
    if spec.card is None:
        return spec.burn.power
    powers = [cell.power for cell in lay_out(spec).cells]
    return min(*powers, spec.card.label_power)


def likeness(spec: JobSpec) -> BitGrid:
    """Return a card on its job's own grid; dots are as strong as their share of its dose.

    Patches of the job's own pitch lie dot for dot; of others only their mean
    is drawn.
    """
    out = np.zeros((spec.size.rows, spec.size.cols), np.float32)
    if spec.machine.touches:
        draw_lines(spec, lay_out(spec), out)
    else:
        most = job_dose_j_mm2(spec)
        for field in card_patches(spec):
            _draw_field(spec, field, out, most)
        _draw_strokes(spec, out, most)
    return BitGrid.from_power(np.rint(np.clip(out, 0, 1) * FULL).astype(np.uint16))


def _draw_field(
    spec: JobSpec, field: CardPatch, out: NDArray[np.float32], most: float
) -> None:
    pitch, patch = spec.size.pitch_mm, field.spec
    # A patch burned backward has its columns in the order they are burned.
    backward = field.path.step_x_mm * plan_raster(patch)[0].step_x_mm < 0
    dots = field.bits.mirrored() if backward else field.bits
    shift = field.cell.shift_mm if field.cell and backward else 0.0
    left = max(round((patch.place.x_mm - spec.place.x_mm + shift) / pitch), 0)
    front = max(round((patch.place.y_mm - spec.place.y_mm) / pitch), 0)
    plane = dots.unpack().astype(np.float32)
    if abs(patch.size.pitch_mm / pitch - 1) > 1e-9:
        across, up = (n * patch.size.pitch_mm for n in (dots.cols, dots.rows))
        shape = max(dots_across(up, pitch), 1), max(dots_across(across, pitch), 1)
        plane = np.full(shape, plane.mean(), np.float32)
    bottom = out.shape[0] - front
    part = out[max(bottom - plane.shape[0], 0) : bottom, left : left + plane.shape[1]]
    drawn = plane[-part.shape[0] :, : part.shape[1]] * np.float32(
        job_dose_j_mm2(patch) / most
    )
    np.maximum(part, drawn, out=part)


def _draw_strokes(spec: JobSpec, out: NDArray[np.float32], most: float) -> None:
    """Draw letters and lines, as strong as their energy spread over the spot is."""
    layout, card = lay_out(spec), spec.card
    if card is None:
        return
    pitch, spot = spec.size.pitch_mm, spec.machine.spot_mm
    watt = spec.machine.rated_power_w / 100
    wide = max(1, round(spot / pitch))

    def draw(strokes: list[Polyline], speed: float, power: float) -> None:
        strength = min(watt * power / (speed * spot) / most, 1.0)
        for stroke in strokes:
            points = stroke / pitch
            points[:, 1] = out.shape[0] - points[:, 1]
            whole = np.rint(points * 16 - 8).astype(np.int32)
            cv2.polylines(out, [whole], False, strength, wide, cv2.LINE_8, 4)

    for line in layout.letters:
        draw(written(line), card.label_speed_mm_s, card.label_power)
    if card.kind == "focus":
        for cell in layout.cells:
            draw([focus_line(cell)], cell.speed_mm_s, cell.power)
    if card.kind == "roller":
        draw(_ruled(layout.cells[0]), spec.burn.speed_mm_s, spec.burn.power)


def cell_dose(spec: JobSpec, cell: Cell) -> float:
    """Return a cell's areal dose in J/mm², all passes."""
    return dose_of(cell, spec.machine, spec.burn.passes)
