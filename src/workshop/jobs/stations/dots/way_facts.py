"""What the ways besides dots say beside their fields."""

from dataclasses import dataclass

import numpy as np

from engraving.cards import KINDS
from engraving.carving import VTool
from engraving.dots.screens import cell_width_mm
from engraving.jobspec import BOARD_LEFT_MM, JobSpec
from engraving.pipeline.stages.ways.registry import WAYS
from workshop.jobs.pictures.engine import pipeline

_BINS = 32


@dataclass(frozen=True)
class ReliefFacts:
    """What a relief comes to: passes, depths in mm, its histogram.

    Of an uneven material the deepest place comes out between ``hard`` and ``soft``.
    """

    passes: int
    deepest: float
    mean: float
    nothing: float
    steps: float
    bars: str
    lens_depth: float
    by_hand: float
    hard: float
    soft: float
    notes: tuple[str, ...]


@dataclass(frozen=True)
class CarvedFacts:
    """What a tool can carve of a screen; widths and depths in mm."""

    cell: float
    widest: float
    narrowest: float
    tones: int
    board: float
    most: float
    too_deep: bool
    uneven_thin: float
    uneven_thick: float
    lines: int


@dataclass(frozen=True)
class DragFacts:
    """How much of a plate is scratched."""

    share: float
    scratches: int
    mark: float
    fits: bool


@dataclass(frozen=True)
class WayFacts:
    """The way, whether its machine can do it, and what it says of itself."""

    way: str
    reason: str
    can: bool
    methods: tuple[str, ...]
    card: str
    card_label: str
    relief: ReliefFacts | None = None
    carved: CarvedFacts | None = None
    drag: DragFacts | None = None


def way_facts(spec: JobSpec, methods: tuple[str, ...], *, quick: bool) -> WayFacts:
    """Return what a job's way says; what takes long is left out of a quick look."""
    way = WAYS[spec.marking.way]
    return WayFacts(
        way.name,
        way.reason,
        spec.machine.kind in way.machines,
        methods,
        way.card,
        KINDS[way.card].label.lower(),
        _relief(spec) if way.name == "relief" and not quick else None,
        _carved(spec, quick=quick) if way.name == "carved" else None,
        _drag(spec) if way.name == "drag" and not quick else None,
    )


def _relief(spec: JobSpec) -> ReliefFacts:
    stages = pipeline()
    plan, part = stages.relief(spec), spec.marking.relief
    deep = plan.depths
    counts, _ = np.histogram(deep[deep > 0], _BINS, (0, max(plan.deepest_mm, 1e-6)))
    lens = next((one for one in spec.machine.lenses if one.name == spec.machine.lens), None)
    by_hand = 0.0
    if part.focus == "middle" and not spec.machine.z_axis:
        by_hand = min(part.depth_mm, part.floor_mm or part.depth_mm) / 2
    return ReliefFacts(
        passes=plan.count,
        deepest=plan.deepest_mm,
        mean=float(deep.mean()),
        nothing=float((deep == 0).mean()),
        steps=2 * part.per_pass_mm,
        bars=_bars(counts.tolist()),
        lens_depth=lens.depth_mm if lens else 0.0,
        by_hand=by_hand,
        hard=plan.deepest_mm * (1 - spec.substrate.uneven / 100),
        soft=plan.deepest_mm * (1 + spec.substrate.uneven / 100),
        notes=stages.depth_picture(spec).notes,
    )


def _bars(counts: list[int]) -> str:
    """Return a histogram as path data, one wide a bin, 40 high; by roots, for the few."""
    most = max(*counts, 1)
    heights = [40 * (count / most) ** 0.5 for count in counts]
    tops = " ".join(f"V{40 - high:.1f} H{k + 1}" for k, high in enumerate(heights))
    return f"M0 40 {tops} V40 Z"


def _carved(spec: JobSpec, *, quick: bool) -> CarvedFacts:
    carving, cell = spec.marking.carving, cell_width_mm(spec.dots)
    tool = VTool.of(carving.tool, carving.deepest_mm)
    widest = min(cell, tool.widest_mm, spec.dots.most_mark_mm or cell)
    least = max(carving.least_mm, spec.dots.least_mark_mm, tool.tip_mm)
    board = spec.blank.thickness_mm
    most = max(board - BOARD_LEFT_MM, 0.0)
    deep = bool(board) and carving.deepest_mm > most + 1e-9
    return CarvedFacts(
        cell=cell,
        widest=widest,
        narrowest=least,
        tones=tool.tones(least, widest, carving.z_step_mm),
        board=board,
        most=most,
        too_deep=deep,
        uneven_thin=tool.unevenness(carving.uneven_mm, least),
        uneven_thick=tool.unevenness(carving.uneven_mm, widest),
        lines=0 if quick or deep else len(pipeline().carved(spec)),
    )


def _drag(spec: JobSpec) -> DragFacts:
    stages, mark = pipeline(), spec.machine.spot_mm
    return DragFacts(
        share=stages.dots(spec).share,
        scratches=len(stages.scratched(spec)),
        mark=mark,
        fits=abs(spec.size.pitch_mm - mark) < 0.05 * mark,
    )
