"""A job's stages, each computed from the one before and kept while it may be needed.

Every stage is keyed by all it depends on, so a picture that carries its key
in its address never goes stale, and a change recomputes only what it must.

Up to the proof a job is seen from the side that is looked at; only what
leaves for the machine (`burned` and all that follows) is mirrored.
"""

from typing import BinaryIO

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.artwork.levels import splitting_level
from engraving.artwork.overlay import DARK, LIGHT
from engraving.artwork.retouch import apply_shading
from engraving.check import Facts, Finding, Fine, check_job
from engraving.dots import BitGrid, make_dots
from engraving.dots.runs import count_short, least_run_dots, without_short
from engraving.gcode import write_gcode
from engraving.lettering import line_length_mm, thinnest_stroke_mm
from engraving.motion import Clock, Estimate
from engraving.pipeline.cache import stage_key
from engraving.pipeline.edges import melting_share
from engraving.pipeline.picture import PictureStages
from engraving.place import engravable_mask, face_mask
from engraving.proof import (
    Answer,
    Palette,
    SpotModel,
    proof_png,
    reproduction_table,
    spot_model,
    substrate_palette,
)
from engraving.proof.reproduction import Process, burned_lightness
from engraving.recipe import exposure, least_run_mm
from engraving.spec import DotsPart, JobSpec, Polarity
from engraving.tone import AutoTone, Ground, apply_tone, auto_tone, levels_to_burn, look_at
from engraving.toolpath import plan_raster, record

_PLAIN_DOTS = DotsPart(method="threshold", level=50)
_LOOK = {
    "ground", "mark", "response", "onset", "scorch_from", "scorch", "clear", "backing",
}  # fmt: skip


class Pipeline(PictureStages):
    """Computes any job, headless or behind the screens."""

    # Keys, one a stage, each built on the one before.

    def tone_key(self, spec: JobSpec) -> str:
        """Key of the toned picture."""
        tone = None
        if not spec.keeps_dots:
            tone = (spec.tone.effective().model_dump(), spec.size.cell_mm)
        return stage_key("tone", self.grid_key(spec), tone, self.shading_key(spec))

    def finished_key(self, spec: JobSpec) -> str:
        """Key of the picture as it should look."""
        return stage_key(
            "finished",
            self.tone_key(spec),
            self.mask_key(spec),
            self.overlay_key(spec),
            spec.burns_dark,
        )

    def levels_key(self, spec: JobSpec) -> str:
        """Key of what the dot method reads."""
        table = self._table_key(spec)
        return stage_key("levels", self.finished_key(spec), table, spec.burns_dark)

    def _table_key(self, spec: JobSpec) -> str:
        mode = spec.reproduction.mode
        if spec.keeps_dots or mode == "plain":
            return "plain"
        if mode == "linear":
            return f"linear, {'dark' if spec.burns_dark else 'light'} tones burned"
        patches = spec.reproduction.model_dump() if mode == "measured" else mode
        dots = spec.dots.model_dump()
        return stage_key("table", patches, dots, self.calibrated_key(spec))

    def calibrated_key(self, spec: JobSpec) -> str:
        """Key of spot and substrate as the recipe burns them."""
        machine = spec.machine
        return stage_key(
            (machine.spot_mm, machine.spot_shape, machine.pulsed),
            spec.size.cell_mm,
            spec.substrate.model_dump(include=_LOOK),
            spec.burns_dark,
            spec.inverted,
        )

    def made_key(self, spec: JobSpec) -> str:
        """Key of the dots as their method makes them."""
        method = None if spec.keeps_dots else (spec.dots.model_dump(), spec.size.cell_mm)
        return stage_key("made", self.levels_key(spec), method)

    def dots_key(self, spec: JobSpec) -> str:
        """Key of the dots."""
        blank = spec.blank.model_dump() if spec.blank.keep_inside else None
        size = (spec.size.cell_mm, spec.size.offset_x_mm, spec.size.offset_y_mm)
        return stage_key(
            "dots",
            self.made_key(spec),
            self._least_run(spec) if spec.dots.runs != "keep" else None,
            blank,
            size if blank else None,
        )

    def proof_key(self, spec: JobSpec) -> str:
        """Key of the proof."""
        look = spec.substrate.model_dump()
        return stage_key("proof", self.dots_key(spec), look, self._spot_key(spec))

    @staticmethod
    def _spot_key(spec: JobSpec) -> tuple[object, ...]:
        machine = spec.machine
        beam = machine.spot_mm, machine.spot_shape, machine.pulsed
        return (*beam, spec.size.cell_mm, round(exposure(spec), 4))

    def path_key(self, spec: JobSpec) -> str:
        """Key of the tool path and its time."""
        machine = spec.machine
        return stage_key(
            "path",
            self.dots_key(spec),
            spec.mirrored,
            repr(plan_raster(spec)),
            machine.acceleration_mm_s2,
            machine.rapid_mm_s,
        )

    # Stages.

    def toned(self, spec: JobSpec) -> NDArray[np.uint8]:
        """Return the toned and retouched picture, shape (rows, cols)."""
        return self._cache.get(self.tone_key(spec), lambda: self._tone(spec))

    def _tone(self, spec: JobSpec) -> NDArray[np.uint8]:
        grid = self.grid(spec)
        if spec.keeps_dots:
            # The two levels need not be black and white.
            return np.where(grid > splitting_level(grid), 255, 0).astype(np.uint8)
        toned = apply_tone(grid, spec.tone, spec.size.cell_mm)
        shading = self.shading(spec)
        return toned if shading is None else apply_shading(toned, *shading)

    def finished(self, spec: JobSpec) -> NDArray[np.uint8]:
        """Return the picture as it should look: mask, lettering and border applied.

        What is not burned shows as 255 where the beam darkens, else as 0.
        """
        mask, overlay = self.mask(spec), self.overlay(spec)
        if mask is None and overlay is None:
            return self.toned(spec)
        return self._cache.get(
            self.finished_key(spec), lambda: _finish(spec, self.toned(spec), mask, overlay)
        )

    def dots(self, spec: JobSpec) -> BitGrid:
        """Return the dots, as seen from the side that is looked at.

        Raises
        ------
        ChoiceError
            When the dot method does not exist.
        """
        return self._cache.get(self.dots_key(spec), lambda: self._make_dots(spec))

    def levels(self, spec: JobSpec) -> NDArray[np.uint8]:
        """Return what the dot method reads: 0 burn solid, 255 leave."""
        return self._cache.get(self.levels_key(spec), lambda: self._levels(spec))

    def _levels(self, spec: JobSpec) -> NDArray[np.uint8]:
        return self.levels_of(spec, self.finished(spec))

    def levels_of(self, spec: JobSpec, codes: NDArray[np.uint8]) -> NDArray[np.uint8]:
        """Return the levels that burn wanted codes, of the whole picture or a part."""
        table = self.reproduction(spec)
        if table is not None:
            return np.asarray(cv2.LUT(codes, table), np.uint8)
        side = Polarity.DARKENS if spec.burns_dark else Polarity.LIGHTENS
        return levels_to_burn(codes, side)

    def reproduction(self, spec: JobSpec) -> NDArray[np.uint8] | None:
        """Return the level to burn for each wanted code; None where codes say it."""
        if spec.keeps_dots:
            return None
        made = lambda: (reproduction_table(self.process(spec), spec.reproduction),)  # noqa: E731
        return self._cache.get(self._table_key(spec), made)[0]

    def process(self, spec: JobSpec) -> Process:
        """Return all that decides how light a patch of dots comes out.

        At the recipe's dose: who burns stronger or weaker than it says is to
        see that in the proof, not have it corrected away.
        """
        return Process(
            spec.dots,
            spec.size.cell_mm,
            self.spot(spec, as_recipe=True),
            self.palette(spec),
            spec.burns_dark,
            spec.inverted,
        )

    def ends(self, spec: JobSpec) -> tuple[float, float]:
        """Return the L* of bare and of solidly burned substrate, at the recipe's dose."""
        key = stage_key("ends", self.calibrated_key(spec), spec.dots.model_dump())
        return self._cache.get(key, lambda: self._burned_ends(spec))

    def _burned_ends(self, spec: JobSpec) -> tuple[float, float]:
        bare, solid = burned_lightness(self.process(spec), np.array([0.0, 1.0]))
        return float(bare), float(solid)

    def auto_tone(self, spec: JobSpec) -> AutoTone:
        """Return tone settings computed from the picture and its substrate."""
        key = stage_key("look", self.grid_key(spec), self.mask_key(spec))
        look = self._cache.get(key, lambda: look_at(self.grid(spec), self.mask(spec)))
        darkest, lightest = sorted(self.ends(spec))
        ground = Ground(
            darkest,
            lightest,
            spec.burns_dark,
            spec.machine.spot_mm / spec.size.pitch_mm,
            spec.size.cell_mm,
            spec.source_per_dot,
        )
        return auto_tone(look, ground)

    def made(self, spec: JobSpec) -> BitGrid:
        """Return the dots as their method makes them, over the whole grid."""
        return self._cache.get(
            self.made_key(spec),
            lambda: make_dots(
                self.levels(spec),
                _PLAIN_DOTS if spec.keeps_dots else spec.dots,
                spec.size.cell_mm,
            ),
        )

    def short_runs(self, spec: JobSpec) -> int:
        """Return how many runs are too short for the beam to burn as planned."""
        least, made = self._least_run(spec), self.made(spec)
        if least < 2 or made.power is not None:
            return 0
        key = stage_key("short", self.made_key(spec), least)
        return self._cache.get(key, lambda: count_short(made.packed, made.cols, least))

    @staticmethod
    def _least_run(spec: JobSpec) -> int:
        return least_run_dots(least_run_mm(spec), spec.size.along_mm)

    def _make_dots(self, spec: JobSpec) -> BitGrid:
        grid = self.made(spec)
        least = self._least_run(spec)
        if spec.dots.runs != "keep" and least > 1 and grid.power is None:
            packed = without_short(grid.packed, grid.cols, least, spec.dots.runs)
            grid = BitGrid(packed, grid.cols)
        mask, overlay = self.mask(spec), self.overlay(spec)
        if mask is not None:
            # Diffused error may not leave the picture.
            grid = grid.within(np.packbits(mask > 0, axis=1))
        if overlay is not None:
            burned, bare = (DARK, LIGHT) if spec.burns_dark else (LIGHT, DARK)
            grid = grid.with_solid(np.packbits(overlay == burned, axis=1))
            grid = grid.within(~np.packbits(overlay == bare, axis=1))
        if spec.blank.keep_inside:
            grid = grid.within(self._engravable(spec))
        return grid

    def burned(self, spec: JobSpec) -> BitGrid:
        """Return the dots as the machine burns them: mirrored where that is needed."""
        dots = self.dots(spec)
        if not spec.mirrored:
            return dots
        key = stage_key("mirrored", self.dots_key(spec))
        return self._cache.get(key, dots.mirrored)

    def _engravable(self, spec: JobSpec) -> NDArray[np.uint8]:
        """Return the packed mask of the dots that lie on the blank."""
        key = stage_key("engravable", spec.size.model_dump(), spec.blank.model_dump())
        return self._cache.get(
            key, lambda: np.packbits(engravable_mask(spec.size, spec.blank), axis=1)
        )

    def off_blank(self, spec: JobSpec) -> float:
        """Return the share of the picture that lies beyond the blank, 0..1."""
        key = stage_key("off", spec.size.model_dump(), spec.blank.model_dump())
        return self._cache.get(
            key, lambda: 1 - float(face_mask(spec.size, spec.blank).mean())
        )

    def spot(self, spec: JobSpec, *, as_recipe: bool = False) -> SpotModel:
        """Return the spot model of a job, or of its recipe's dose."""
        along, pitch = spec.size.cell_mm
        ratio, long = round(spec.machine.spot_mm / pitch, 6), round(along / pitch, 6)
        return spot_model(ratio, _answer(spec, 1.0 if as_recipe else exposure(spec)), long)

    def palette(self, spec: JobSpec) -> Palette:
        """Return the colours of the burned piece."""
        return substrate_palette(spec.substrate, _answer(spec, 1.0).top)

    def proof_png(self, spec: JobSpec) -> bytes:
        """Return the proof as a PNG of one pixel per dot."""
        return proof_png(
            self.dots(spec), self.spot(spec), self.palette(spec), spec.size.cell_mm
        )

    def estimate(self, spec: JobSpec) -> Estimate:
        """Return the time and extent of the job's tool path."""
        return self._cache.get(self.path_key(spec), lambda: self._time(spec))

    def _time(self, spec: JobSpec) -> Estimate:
        clock = _clock(spec)
        for moves in record(self.burned(spec), plan_raster(spec)):
            clock.add(moves)
        return clock.estimate()

    def write_gcode(self, spec: JobSpec, target: BinaryIO) -> Estimate:
        """Write the job's G-code and return its estimate, in one walk."""
        clock = _clock(spec)
        bands = record(self.burned(spec), plan_raster(spec))
        for moves in write_gcode(spec, bands, target):
            clock.add(moves)
        return clock.estimate()

    def facts(self, spec: JobSpec) -> Facts:
        """Return what the check rules need to know."""
        found = self.artwork(spec)
        key = stage_key("facts", self.dots_key(spec), self.overlay_key(spec))
        melting, strokes = self._cache.get(
            key, lambda: (self._melting(spec), self._strokes(spec))
        )
        return Facts(
            spec,
            self.dots(spec).count,
            found.two_level,
            smeared=found.smeared,
            melting=melting,
            strokes=strokes,
            off_blank=self.off_blank(spec),
            short_runs=self.short_runs(spec),
        )

    def _melting(self, spec: JobSpec) -> float | None:
        """Return how much of the subject's edge looks like its ground."""
        mask, opacity = self.mask(spec), self.opacity(spec)
        edge = opacity if opacity is not None else mask
        if edge is None:
            return None
        ground = None if mask is None else (255.0 if spec.burns_dark else 0.0)
        return melting_share(self.toned(spec), edge, ground)

    def _strokes(self, spec: JobSpec) -> tuple[tuple[str, float, float], ...]:
        """Return text, thinnest stroke and length in mm of each line of lettering."""
        lines = spec.lettering.lines
        faces = [self.face(line.font) for line in lines]
        return tuple(
            (line.text, thinnest_stroke_mm(face, line), line_length_mm(face, line))
            for line, face in zip(lines, faces, strict=True)
        )

    def check(self, spec: JobSpec) -> tuple[list[Finding], list[Fine]]:
        """Return findings, worst first, and what is fine."""
        return check_job(self.facts(spec))


def _finish(
    spec: JobSpec,
    toned: NDArray[np.uint8],
    mask: NDArray[np.uint8] | None,
    overlay: NDArray[np.uint8] | None,
) -> NDArray[np.uint8]:
    out = toned
    if mask is not None:
        bare = 255.0 if spec.burns_dark else 0.0
        share = mask.astype(np.float32) / 255
        out = np.rint(bare + (toned - np.float32(bare)) * share).astype(np.uint8)
    if overlay is not None:
        out = np.where(overlay == DARK, np.uint8(0), out)
        out = np.where(overlay == LIGHT, np.uint8(255), out)
    return out


def _answer(spec: JobSpec, times: float) -> Answer:
    """Return how the substrate answers the beam at so many times the recipe's dose."""
    substrate, machine = spec.substrate, spec.machine
    return Answer(
        machine.spot_shape,
        substrate.response,
        substrate.onset,
        substrate.scorch_from,
        round(times, 4),
        machine.pulsed,
    )


def _clock(spec: JobSpec) -> Clock:
    return Clock(spec.machine.acceleration_mm_s2, spec.machine.rapid_mm_s)
