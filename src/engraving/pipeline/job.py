"""All of a job that is asked for outside: its stages, its check, its G-code."""

from collections import deque
from functools import partial
from pathlib import Path
from typing import BinaryIO

from engraving.check import Facts, Finding, Fine, ReliefKnown, Shelf, check_job
from engraving.dots import BitGrid
from engraving.errors import ArtworkError
from engraving.gcode import Part, write_gcode, write_parts
from engraving.gcode.parts import Opener
from engraving.jobspec import JobSpec
from engraving.lettering import Face
from engraving.motion import Estimate
from engraving.outline import FollowNotes
from engraving.pieces import KNOTS, Expected, expected_of
from engraving.pipeline.burn_track import BurnTrack, Tracking
from engraving.pipeline.cache import stage_key
from engraving.pipeline.pathmap import Looked
from engraving.pipeline.stage import Stages
from engraving.pipeline.stages import dots as of_dots
from engraving.pipeline.stages import marked as of_marked
from engraving.pipeline.stages import outline as of_outlines
from engraving.pipeline.stages import path as of_path
from engraving.pipeline.stages import picture as of_picture
from engraving.pipeline.stages import proof as of_proof
from engraving.pipeline.stages import tones as of_tones
from engraving.pipeline.stages.ways import carved as of_carved
from engraving.pipeline.stages.ways import drag as of_drag
from engraving.pipeline.stages.ways import inside as of_inside
from engraving.pipeline.stages.ways import relief as of_relief
from engraving.pipeline.starts import Starts, without_first, write_with_starts
from engraving.place import mounted
from engraving.progress import tell
from engraving.proof import write_proof_png
from engraving.proof.reproduction import burned_lightness
from engraving.strips import InTurn
from engraving.tone import code_counts, summary
from engraving.toolpath.tool import above
from engraving.units import MEGABYTE

_ANY = JobSpec()
"""For stages that read nothing of a job."""


class Pipeline(Stages):
    """Computes any job, headless or behind the screens.

    Each attribute is a stage: ``pipeline.dots(spec)`` is its result for a job,
    ``pipeline.dots.key(spec)`` the key of all the result depends on.
    """

    artwork = of_picture.artwork
    likeness = of_picture.likeness
    likely_depth = of_picture.likely_depth
    placed = of_picture.placed
    grid = of_picture.grid
    mask = of_picture.mask
    overlay = of_picture.overlay

    toned = of_tones.toned
    finished = of_tones.finished
    reproduction = of_tones.reproduction
    process = of_tones.process
    ends = of_tones.ends
    spot = of_tones.spot
    palette = of_tones.palette
    auto_tone = of_tones.auto

    dots = of_marked.dots
    burned = of_marked.burned
    aimed = of_dots.aimed
    short_runs = of_dots.short_runs
    off_blank = of_dots.off_blank

    relief = of_relief.relief
    depth_picture = of_relief.depth_picture
    carved = of_carved.carved_strokes
    scratched = of_drag.scratched
    inside = of_inside.inside

    followed = of_outlines.followed
    areas_found = of_outlines.areas_found
    specks_dropped = of_outlines.specks_dropped
    spans = of_outlines.spans

    bands = of_path.bands
    operation_moves = of_path.operation_moves
    estimate = of_path.estimate
    path_map = of_path.path_map
    side_view = of_path.side_view
    sent = of_path.sent

    proof = of_proof.proof
    surface = of_proof.surface
    plan = of_proof.plan
    plan_bits = of_proof.plan_bits
    cut_share = of_proof.cut_share
    wanted = of_proof.wanted

    def expected(self, spec: JobSpec) -> Expected:
        """Return what a job's piece was to look like, to lay its photo over.

        Raises
        ------
        ArtworkError
            When it has no tones that a photo could tell of.
        """
        _hold_tones(spec)
        measured = spec.reproduction
        if measured.mode == "measured":
            curve = measured.patches
        else:
            light = burned_lightness(self.process(spec), KNOTS)
            shares = (100 * KNOTS).tolist()
            curve = tuple(zip(shares, light.tolist(), strict=True))
        ground = float(self.palette(spec).light[0])
        return expected_of(self.aimed(spec), spec.size, spec.blank, curve, ground)

    def face(self, name: str) -> Face:
        """Return a font."""
        return self.get(of_picture.face, _ANY, name)

    def on_machine(self, spec: JobSpec) -> tuple[JobSpec, BitGrid]:
        """Return a job and its dots as they lie on the machine.

        A round piece is turned a quarter; at its seam the first rows are burned
        once more where an overlap is wanted.
        """
        bits = self.get(of_path.on_machine, spec)
        if not spec.mount.rotary:
            return spec, bits
        lying = mounted(spec)
        deep = bits.rows * lying.size.pitch_mm
        size = lying.size.model_copy(update={"height_mm": deep})
        return lying.model_copy(update={"size": size}), bits

    def write_proof(self, spec: JobSpec, target: Path | BinaryIO) -> None:
        """Write the proof as a PNG of one pixel per dot."""
        look = self.spot(spec), self.palette(spec)
        write_proof_png(target, self.dots(spec), *look, spec.size.cell_mm)

    def write_gcode(
        self, spec: JobSpec, target: BinaryIO, *, lifted: bool = False
    ) -> Estimate:
        """Write the job's G-code and return its estimate, in one walk.

        With ``lifted`` a tool that touches goes its way above the piece.
        """
        clock = self.get(of_path.timing, spec).clock()
        bands = self.bands(spec)
        if lifted and spec.machine.touches:
            bands = (above(moves, spec.machine.lift_mm) for moves in bands)
        written, beside = 0, InTurn()
        for moves in write_gcode(spec, bands, target):
            beside.call(partial(clock.add, moves))
            written += len(moves)
            tell("Writing the moves", written)
        beside.wait()
        return clock.estimate()

    def write_run(
        self,
        spec: JobSpec,
        target: BinaryIO,
        *,
        after: int = 0,
        tracking: Tracking | None = None,
    ) -> Starts:
        """Write the job's G-code as it is burned; return where its rows begin.

        Parameters
        ----------
        spec : JobSpec
        target : binary stream
            Receives ASCII text.
        after : int
            So many rows and strokes are left out at the beginning: they are burned.
        tracking : Tracking, optional
            Tracks all of the job's moves, those that are left out too.
        """
        bands = self.bands(spec)
        whole = bands if tracking is None else tracking.through(bands)
        left = without_first(whole, after)
        return write_with_starts(spec, left, self.get(of_path.timing, spec).clock(), target)

    def write_parts(
        self, spec: JobSpec, opened: Opener, *, by_pocket: bool = False
    ) -> list[Part]:
        """Write the job's G-code in files as small as its machine wants them.

        Parameters
        ----------
        spec : JobSpec
        opened : callable
            Gives the stream of a file by its number from 0.
        by_pocket : bool
            A file for each pocket of a fixture.

        Raises
        ------
        InputError
            As `engraving.gcode.write_parts`.
        """
        most = round(spec.machine.file_mb * MEGABYTE)
        return write_parts(
            spec, self.bands(spec), opened, most_bytes=most, by_pocket=by_pocket
        )

    def tracking(self, spec: JobSpec, looked: Looked, whole_s: float) -> Tracking:
        """Return what tracks a job's moves over a window, in one walk with its writing."""
        timed = self.get(of_path.timing, spec)
        return Tracking(looked, timed.clock(), timed.zero, whole_s)

    def track(self, spec: JobSpec, looked: Looked) -> BurnTrack:
        """Return a job's way over a window, and where its rows begin."""
        tracking = self.tracking(spec, looked, self.estimate(spec).seconds)
        deque(tracking.through(self.bands(spec)), maxlen=0)
        return tracking.found()

    def facts(self, spec: JobSpec, shelf: Shelf | None = None) -> Facts:
        """Return what the check rules need to know."""
        found, dots = self.artwork(spec), self.dots(spec)
        return Facts(
            spec,
            dots.count,
            dots.rows * dots.cols,
            dots.share,
            found.opaque,
            found.dotted,
            smeared=found.smeared,
            file_cell_mm=spec.artwork.cell_at(found.dpi),
            melting=self.get(of_proof.melting, spec),
            strokes=self.get(of_proof.lettered, spec),
            off_blank=self.off_blank(spec),
            short_runs=self.short_runs(spec),
            spans=self.spans(spec),
            reaches=self.get(of_path.reaches, spec),
            outlines=self._told(spec),
            bytes_s=sent.bytes_s if (sent := self.sent(spec)) else None,
            timed=self.estimate(spec) if _is_timed(spec) else None,
            lost=self._lost(spec),
            gcode_bytes=self.sized(spec)[1] if spec.machine.file_mb else None,
            depth_odds=self.likely_depth(spec),
            relief=self._relief_known(spec),
            inside=self._inside_known(spec),
            shelf=shelf,
        )

    def _relief_known(self, spec: JobSpec) -> ReliefKnown | None:
        if spec.marking.way != "relief" or spec.card is not None:
            return None
        plan = self.relief(spec)
        return ReliefKnown(plan.deepest_mm, plan.count)

    def _inside_known(self, spec: JobSpec) -> tuple[tuple[int, float, float], ...]:
        """Return place, widest place and tip of each operation inside outlines."""
        found = []
        for at, one in enumerate(spec.operations):
            if one.on and one.kind == "inside":
                tool = one.tool or spec.marking.carving.tool
                found.append((at, self.inside(spec, one).widest_mm, tool.tip_mm))
        return tuple(found)

    def _lost(self, spec: JobSpec) -> tuple[float, float]:
        """Return which share of the picture tones made all black, and all white."""
        mask = self.mask(spec)
        was = summary(code_counts(self.grid(spec), mask))
        now = summary(code_counts(self.toned(spec), mask))
        return max(now.black - was.black, 0.0), max(now.white - was.white, 0.0)

    def sized(self, spec: JobSpec) -> tuple[Estimate, int]:
        """Return the estimate and the bytes of a job's G-code, written to nowhere."""

        def make() -> tuple[Estimate, int]:
            size = _Size()
            return self.write_gcode(spec, size), size.bytes  # type: ignore[arg-type]

        key = stage_key("sized", self.estimate.key(spec), spec.model_dump(mode="json"))
        return self.cache.get(key, make)

    def _told(self, spec: JobSpec) -> dict[int, FollowNotes]:
        """Return what following each included outline met with."""
        return {
            at: self.followed(spec, one).told
            for at, one in enumerate(spec.operations)
            if one.on and one.kind != "raster"
        }

    def check(
        self, spec: JobSpec, shelf: Shelf | None = None
    ) -> tuple[list[Finding], list[Fine]]:
        """Return findings, worst first, and what is fine."""
        return check_job(self.facts(spec, shelf))


def _hold_tones(spec: JobSpec) -> None:
    """Refuse a job whose piece has no tones, or is not seen whole from above."""
    why = ""
    if spec.card is not None:
        why = "A swatch card has a page of its own to be read on."
    elif spec.keeps_dots:
        why = "The artwork's own dots were burned; there is no tone curve to learn."
    elif spec.dots.method == "threshold":
        why = "It was burned in two tones only; there is no tone curve to learn."
    elif spec.mount.rotary:
        why = "A photo shows only a part of a round wall, and that aslant."
    elif spec.side.printing_plate:
        why = "A printing plate is judged by its print, not by how it looks itself."
    if why:
        raise ArtworkError(why)


class _Size:
    """A stream that only counts."""

    def __init__(self) -> None:
        self.bytes = 0

    def write(self, data: bytes) -> int:
        self.bytes += len(data)
        return len(data)


def _is_timed(spec: JobSpec) -> bool:
    """Whether a rule asks for the time."""
    return bool(spec.machine.look_ahead or spec.machine.longest_min)
