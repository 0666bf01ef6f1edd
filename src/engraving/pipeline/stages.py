"""A job's stages, each computed from the one before and kept while it may be needed.

Every stage is keyed by all it depends on, so a picture that carries its key
in its address never goes stale, and a change recomputes only what it must.

Up to the proof a job is seen from the side that is looked at; only what
leaves for the machine (`burned` and all that follows) is mirrored.
"""

from collections.abc import Iterator
from dataclasses import replace
from typing import Any, BinaryIO, cast

import cv2
import numpy as np
from numpy.typing import NDArray
from shapely import MultiPolygon
from shapely.geometry import box

from engraving.artwork.levels import splitting_level
from engraving.artwork.overlay import DARK, LIGHT
from engraving.artwork.retouch import apply_shading
from engraving.cards import likeness, record_card
from engraving.check import Facts, Finding, Fine, check_job
from engraving.dots import BitGrid, make_dots
from engraving.dots.runs import count_short, least_run_dots, without_short
from engraving.gcode import write_gcode
from engraving.lettering import line_length_mm, thinnest_stroke_mm
from engraving.motion import Estimate, clock_of
from engraving.outline import Followed, Path, Told, follow, kept_areas, traced
from engraving.pipeline.cache import stage_key
from engraving.pipeline.cone import cone_key, drawn_on_cone, on_a_cone
from engraving.pipeline.edges import melting_share
from engraving.pipeline.pathmap import Looked, PathMap, empty_map, paint
from engraving.pipeline.picture import PictureStages
from engraving.place import (
    Box,
    as_written,
    edge_bleed_mm,
    engravable_mask,
    face_mask,
    frame_of,
    job_zero,
    mounted,
    piece_box,
    pieces,
)
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
from engraving.recipe import exposure, least_run_mm, smear_mm, spot_on_surface_mm
from engraving.spec import DotsPart, FixturePart, JobSpec, OperationPart, Polarity
from engraving.tone import AutoTone, Ground, apply_tone, auto_tone, levels_to_burn, look_at
from engraving.toolpath import (
    Moves,
    plan_raster,
    record,
    record_strokes,
    run_up_to,
    turned_moves,
    turned_points,
)

_PLAIN_DOTS = DotsPart(method="threshold", level=50)
_A_WHILE_S = 0.5
"""Shorter bands are covered by what a controller holds ready."""
_HEADS_A_BAND = 400
_ASIDE = {"name", "seen", "lock_scale", "recipe", "recipe_version"}
"""What an operation's moves do not depend on."""
_SAME_LINES = _ASIDE | {"on", "speed_mm_s", "power", "passes", "air", "focus_mm"}
"""What its lines do not depend on."""
_LOOK = {
    "ground", "mark", "response", "onset", "scorch_from", "scorch", "clear", "backing",
}  # fmt: skip


class _Length:
    """A file that only counts what is written to it."""

    total = header = 0

    def write(self, data: bytes) -> None:
        self.total += len(data)
        self.header = self.header or len(data)


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
        bent = cone_key(spec)
        return stage_key("levels", self.finished_key(spec), table, spec.burns_dark, bent)

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
        return stage_key(
            self._beam(spec),
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
        if spec.card is not None:
            return stage_key("card", self._card_key(spec))
        blank = spec.blank.model_dump() if spec.blank.keep_inside else None
        size = (spec.size.cell_mm, spec.size.offset_x_mm, spec.size.offset_y_mm)
        return stage_key(
            "dots",
            self.made_key(spec),
            self._least_run(spec) if self._mends_runs(spec) else None,
            blank,
            size if blank else None,
            edge_bleed_mm(spec.size) if blank else None,
        )

    @staticmethod
    def _card_key(spec: JobSpec) -> dict[str, Any]:
        """Return all that a card is drawn and burned from."""
        parts = {"card", "machine", "burn", "size", "dots", "substrate"}
        return spec.model_dump(include=parts, mode="json")

    def proof_key(self, spec: JobSpec) -> str:
        """Key of the proof."""
        look = spec.substrate.model_dump()
        return stage_key("proof", self.dots_key(spec), look, self._spot_key(spec))

    def _spot_key(self, spec: JobSpec) -> tuple[object, ...]:
        return (*self._beam(spec), spec.size.cell_mm, round(exposure(spec), 4))

    @staticmethod
    def _beam(spec: JobSpec) -> tuple[object, ...]:
        """Return what `spot` takes from machine and settings, but for the dose."""
        machine = spec.machine
        where = spot_on_surface_mm(spec), smear_mm(spec)
        return (*where, machine.spot_shape, machine.pulsed)

    def path_key(self, spec: JobSpec) -> str:
        """Key of the tool path and its time."""
        if spec.fixture is not None:
            # Each pocket's job follows from these; four hundred keys take a second.
            first = self.path_key(spec.model_copy(update={"fixture": None}))
            pockets = spec.fixture.model_dump(mode="json", exclude={"shown"})
            apart = spec.blank.width_mm, spec.blank.height_mm
            lettered = spec.lettering.model_dump()
            return stage_key("pockets", first, pockets, apart, lettered)
        machine = spec.machine
        return stage_key(
            "path",
            self.dots_key(spec),
            spec.mirrored,
            repr(plan_raster(mounted(as_written(spec)))),
            spec.mount.model_dump(),
            (spec.place.zero, spec.place.anchor),
            spec.place.turn_deg,
            [one.model_dump(exclude=_ASIDE) for one in spec.operations],
            [self._found_key(spec, one) for one in spec.outlines],
            spec.blank.model_dump() if spec.outlines else None,
            spec.machine.model_dump() if spec.card else None,
            machine.accelerations,
            machine.rapid_mm_s,
            machine.junction_mm,
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
        codes = self.finished(spec)
        if on_a_cone(spec) and not spec.keeps_dots:
            codes = drawn_on_cone(spec, codes, fill=255 if spec.burns_dark else 0)
        return self.levels_of(spec, codes)

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
        if spec.card is not None:
            return 0
        least, made = self._least_run(spec), self.made(spec)
        if least < 2 or made.power is not None:
            return 0
        key = stage_key("short", self.made_key(spec), least)
        return self._cache.get(key, lambda: count_short(made.packed, made.cols, least))

    @staticmethod
    def _mends_runs(spec: JobSpec) -> bool:
        """Whether runs that are too short are changed; dots that are kept never are."""
        return spec.dots.runs != "keep" and not spec.keeps_dots

    @staticmethod
    def _least_run(spec: JobSpec) -> int:
        return least_run_dots(least_run_mm(spec), spec.size.along_mm)

    def _make_dots(self, spec: JobSpec) -> BitGrid:
        if spec.card is not None:
            return likeness(spec)
        grid = self.made(spec)
        least = self._least_run(spec)
        if self._mends_runs(spec) and least > 1 and grid.power is None:
            packed = without_short(grid.packed, grid.cols, least, spec.dots.runs)
            grid = BitGrid(packed, grid.cols)
        mask, overlay = self.mask(spec), self.overlay(spec)
        if on_a_cone(spec) and not spec.keeps_dots:
            if mask is None:
                mask = np.full((grid.rows, grid.cols), 255, np.uint8)
            mask = drawn_on_cone(spec, mask, fill=0, sharp=True)
            if overlay is not None:
                overlay = drawn_on_cone(spec, overlay, fill=0, sharp=True)
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
        ratio, long = round(spot_on_surface_mm(spec) / pitch, 6), round(along / pitch, 6)
        answer = _answer(spec, 1.0 if as_recipe else exposure(spec))
        return spot_model(ratio, answer, long, round(smear_mm(spec) / along, 4))

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
        clock = clock_of(spec)
        for moves in self.bands(spec):
            clock.add(moves)
        return clock.estimate()

    def bands(self, spec: JobSpec) -> Iterator[Moves]:
        """Yield the job's tool path in bands, each of whole rows or strokes."""
        spec = as_written(spec)
        if spec.card is not None:
            for moves in record_card(spec):
                yield _turned_moves(spec, moves)
            return
        if spec.fixture is not None:
            yield from self._pockets(spec, spec.fixture)
            return
        for at, operation in enumerate(spec.operations):
            for moves in self._operation_bands(spec, operation) if operation.on else ():
                yield replace(_turned_moves(spec, moves), operation=at)

    def _operation_bands(self, spec: JobSpec, operation: OperationPart) -> Iterator[Moves]:
        """Yield the moves of one operation, the piece not yet turned on the bed."""
        if operation.kind == "raster":
            lying, bits = self.on_machine(spec)
            for path in plan_raster(lying):
                for strip, at in _strips(bits, spec, lying.size.along_mm):
                    yield from record(strip, path.moved_along(at))
            return
        paths = self.outline_paths(spec, operation)
        z_mm = operation.focus_mm if spec.machine.z_axis else 0.0
        for _ in range(operation.passes if paths else 0):
            yield record_strokes(
                paths, spec.machine, operation.speed_mm_s, operation.power, z_mm,
                spec.place.turn_deg if operation.kind == "hatch" else None,
            )  # fmt: skip

    def outline_paths(self, spec: JobSpec, operation: OperationPart) -> list[Path]:
        """Return the lines of an operation on the bed, in their order.

        As if the piece lay straight: `place.turn_deg` turns the moves.
        """
        return self.followed(spec, operation).paths

    def followed(self, spec: JobSpec, operation: OperationPart) -> Followed:
        """Return an operation's lines, and what following its shapes met with."""
        found = self.areas_found(spec, operation)
        shape = operation.model_dump(exclude=_SAME_LINES)
        key = stage_key(
            "outline", shape, self._found_key(spec, operation), spec.mirrored,
            spec.size.model_dump(), spec.place.model_dump(), spec.blank.model_dump(),
        )  # fmt: skip
        return self._cache.get(key, lambda: follow(spec, operation, found))

    def areas_found(self, spec: JobSpec, operation: OperationPart) -> MultiPolygon | None:
        """Return what the mask keeps or what is traced, seen from the side looked at.

        None of shapes that need neither.
        """
        if operation.shape not in ("picture", "traced"):
            return None
        return self._cache.get(
            self._found_key(spec, operation), lambda: self._find_areas(spec, operation)
        )

    def _find_areas(self, spec: JobSpec, operation: OperationPart) -> MultiPolygon:
        cell, mask = spec.size.cell_mm, self.mask(spec)
        if operation.shape == "traced":
            return traced(self.toned(spec), cell, operation.trace, mask)
        if mask is None:
            wide, high = spec.size.width_mm / 2, spec.size.height_mm / 2
            return MultiPolygon([box(-wide, -high, wide, high)])
        return kept_areas(mask, cell, operation.trace)

    def _found_key(self, spec: JobSpec, operation: OperationPart) -> str:
        if operation.shape not in ("picture", "traced"):
            return ""
        tones = self.tone_key(spec) if operation.shape == "traced" else ""
        trace, size = operation.trace.model_dump(), spec.size
        # Areas are in mm: the same dots on a larger piece are larger areas.
        lies = size.width_mm, size.height_mm, size.cell_mm
        return stage_key("areas", operation.shape, trace, tones, self.mask_key(spec), lies)

    def on_machine(self, spec: JobSpec) -> tuple[JobSpec, BitGrid]:
        """Return a job and its dots as they lie on the machine.

        A round piece is turned a quarter; at its seam the first rows are burned
        once more where an overlap is wanted.
        """
        bits = self.burned(spec)
        if not spec.mount.rotary:
            return spec, bits
        key = stage_key(
            "turned", self.dots_key(spec), spec.mirrored, spec.mount.model_dump(),
            spec.size.cell_mm,
        )  # fmt: skip
        turned = self._cache.get(key, lambda: _turned(bits, spec))
        lying = mounted(spec)
        deep = turned.rows * lying.size.pitch_mm
        size = lying.size.model_copy(update={"height_mm": deep})
        return lying.model_copy(update={"size": size}), turned

    def _pockets(self, spec: JobSpec, fixture: FixturePart) -> Iterator[Moves]:
        """Yield the bands of all pockets, waiting between where that is wanted."""
        for i, piece in enumerate(pieces(spec)):
            for j, moves in enumerate(self.bands(piece)):
                waits = fixture.pause and i > 0 and j == 0
                yield replace(moves, waits=True) if waits else moves

    def path_map(self, spec: JobSpec, looked: Looked) -> PathMap:
        """Return when each spot of a window is burned or passed over.

        Positions are the machine's; of a rotary, mm of the surface.
        """
        key = stage_key("path map", self.path_key(spec), looked)
        return self._cache.get(key, lambda: self._map_path(spec, looked))

    def _map_path(self, spec: JobSpec, looked: Looked) -> PathMap:
        whole = max(self.estimate(spec).seconds, 1e-9)
        clock, begun, at = clock_of(spec), 0.0, job_zero(spec)
        found, heads = empty_map(looked), []
        for moves in self.bands(spec):
            each = clock.add(moves)
            x = np.concatenate(([at[0]], moves.x * moves.unit_mm))
            y = np.concatenate(([at[1]], moves.y * moves.unit_mm))
            ends = (begun + np.concatenate(([0.0], np.cumsum(each)))) / whole
            paint(found, looked, x, y, moves.power > 0, np.minimum(ends, 1.0))
            step = max(len(moves) // _HEADS_A_BAND, 1)
            heads.append(np.stack([ends, x, y], axis=1)[::step])
            begun, at = begun + float(each.sum()), (float(x[-1]), float(y[-1]))
        if heads:
            found.heads = np.concatenate(heads).astype(np.float32)
        return found

    def write_gcode(self, spec: JobSpec, target: BinaryIO) -> Estimate:
        """Write the job's G-code and return its estimate, in one walk."""
        clock = clock_of(spec)
        for moves in write_gcode(spec, self.bands(spec), target):
            clock.add(moves)
        return clock.estimate()

    def facts(self, spec: JobSpec) -> Facts:
        """Return what the check rules need to know."""
        found = self.artwork(spec)
        key = stage_key("facts", self.dots_key(spec), self.overlay_key(spec))
        melting, strokes = self._cache.get(
            key, lambda: (self._melting(spec), self._strokes(spec))
        )
        dots = self.dots(spec)
        opaque = None if found.alpha is None else float((found.alpha > 127).mean())
        return Facts(
            spec,
            dots.count,
            dots.rows * dots.cols,
            dots.share,
            opaque,
            found.dotted,
            smeared=found.smeared,
            file_cell_mm=spec.artwork.cell_at(found.dpi),
            melting=melting,
            strokes=strokes,
            off_blank=self.off_blank(spec),
            short_runs=self.short_runs(spec),
            spans=self.spans(spec),
            reaches=self._reaches(spec),
            outlines=self._told(spec),
            bytes_s=self._bytes_s(spec) if spec.machine.link_baud else None,
        )

    def _bytes_s(self, spec: JobSpec) -> float:
        """Return how many bytes of G-code are burned a second, where most are."""
        key = stage_key("bytes", self.path_key(spec), spec.machine.model_dump())
        return self._cache.get(key, lambda: self._most_bytes_s(spec))

    def _most_bytes_s(self, spec: JobSpec) -> float:
        clock, text, most, before = clock_of(spec), _Length(), 0.0, 0
        for moves in write_gcode(spec, self.bands(spec), cast("BinaryIO", text)):
            seconds = float(clock.add(moves).sum())
            size = text.total - text.header
            if seconds > _A_WHILE_S:
                most = max(most, (size - before) / seconds)
            before = size
        return most

    def _told(self, spec: JobSpec) -> dict[int, Told]:
        """Return what following each included outline met with."""
        return {
            at: self.followed(spec, one).told
            for at, one in enumerate(spec.operations)
            if one.on and one.kind != "raster"
        }

    def _reaches(self, spec: JobSpec) -> dict[int, Box]:
        """Return where the head goes for each outline, all pockets together."""
        found: dict[int, Box] = {}
        for piece in pieces(spec):
            for at, span in self.spans(piece).items():
                found[at] = found[at].around(span) if at in found else span
        return found

    def spans(self, spec: JobSpec) -> dict[int, Box]:
        """Return where the head goes for each included outline, by its place."""
        found, turn = {}, spec.place.turn_deg
        middle = piece_box(spec.size, spec.place).middle
        for at, one in enumerate(spec.operations):
            paths = [] if one.kind == "raster" else self.outline_paths(spec, one)
            if one.on and paths:
                if one.kind == "hatch":
                    speed = one.speed_mm_s
                    paths = [run_up_to(path, spec.machine, speed, turn) for path in paths]
                ends = turned_points(np.concatenate(paths), middle, turn)
                (left, front), (right, back) = np.min(ends, axis=0), np.max(ends, axis=0)
                found[at] = Box(float(left), float(front), float(right), float(back))
        return found

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


def _turned(bits: BitGrid, spec: JobSpec) -> BitGrid:
    """Return dots a quarter turned, their top to the side that the mount says."""
    quarter = bits.turned(left=spec.mount.top == "left")
    again = round(spec.mount.overlap_mm / spec.size.along_mm) if spec.mount.wrap else 0
    # Rows are burned from the back forward; the seam's first ones come again in front.
    return quarter.extended(min(again, quarter.rows)) if again else quarter


def _turned_moves(spec: JobSpec, moves: Moves) -> Moves:
    """Return moves as the piece lies on the bed: turned about the picture's middle."""
    if not spec.place.turn_deg:
        return moves
    frame = frame_of(spec.machine)
    middle = frame.to_machine(*piece_box(spec.size, spec.place).middle)
    return turned_moves(moves, middle, spec.place.turn_deg * frame.sign_x * frame.sign_y)


def _strips(bits: BitGrid, spec: JobSpec, along_mm: float) -> Iterator[tuple[BitGrid, int]]:
    """Yield the strips of a wall along its axis, and the column each begins at."""
    wide = round(spec.mount.strip_mm / along_mm) if spec.mount.rotary else 0
    if not wide or wide >= bits.cols:
        yield bits, 0
        return
    for at in range(0, bits.cols, wide):
        yield bits.columns(at, min(at + wide, bits.cols)), at


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
