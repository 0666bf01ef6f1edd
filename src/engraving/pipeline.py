"""A job's stages, each computed from the one before and kept while it may be needed.

Every stage is keyed by all it depends on, so a picture that carries its key
in its address never goes stale, and a change recomputes only what it must.
"""

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, BinaryIO, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from engraving.artwork import Artwork, place_on_grid
from engraving.check import Facts, Finding, Fine, check_job
from engraving.dots import BitGrid, make_dots
from engraving.gcode import write_gcode
from engraving.motion import Clock, Estimate
from engraving.place import engravable_mask
from engraving.proof import (
    Palette,
    SpotModel,
    proof_png,
    spot_model,
    substrate_palette,
)
from engraving.spec import JobSpec
from engraving.tone import apply_tone, levels_to_burn
from engraving.toolpath import plan_raster, record

T = TypeVar("T")


def stage_key(*parts: Any) -> str:
    """Return a short key of plain data; equal data give equal keys."""
    text = json.dumps(parts, sort_keys=True, default=str)
    return hashlib.sha256(text.encode()).hexdigest()[:24]


class StageCache:
    """Results by key, least recently used thrown away, computed once at a time.

    Parameters
    ----------
    most_bytes : int
        How much the kept arrays may hold together.
    """

    def __init__(self, most_bytes: int) -> None:
        self._most = most_bytes
        self._kept: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._lock = threading.Lock()
        self._busy: dict[str, threading.Lock] = {}

    def get(self, key: str, make: Callable[[], T]) -> T:
        """Return the result of `key`, made by `make` where it is not kept.

        Two threads that ask for the same key wait for one computation.
        """
        with self._lock:
            found = self._find(key)
            if found is not None:
                return cast("T", found[0])
            busy = self._busy.setdefault(key, threading.Lock())
        with busy:
            with self._lock:
                found = self._find(key)
                if found is not None:
                    return cast("T", found[0])
            result = make()
            with self._lock:
                self._keep(key, result)
                self._busy.pop(key, None)
        return result

    def _find(self, key: str) -> tuple[Any, int] | None:
        found = self._kept.get(key)
        if found is not None:
            self._kept.move_to_end(key)
        return found

    def _keep(self, key: str, result: object) -> None:
        self._kept[key] = (result, _size(result))
        total = sum(size for _, size in self._kept.values())
        while total > self._most and len(self._kept) > 1:
            _, (_, size) = self._kept.popitem(last=False)
            total -= size


def _size(result: object) -> int:
    if isinstance(result, np.ndarray):
        return int(result.nbytes)
    if isinstance(result, BitGrid):
        return int(result.packed.nbytes)
    if isinstance(result, Artwork):
        return int(result.gray.nbytes)
    return 1024


class Pipeline:
    """Computes any job, headless or behind the screens.

    Parameters
    ----------
    load : callable
        Returns the `Artwork` of a job.
    cache : StageCache
        Where results are kept; share one between pipelines of one process.
    """

    def __init__(self, load: Callable[[JobSpec], Artwork], cache: StageCache) -> None:
        self._load = load
        self._cache = cache

    # Keys, one a stage, each built on the one before.

    def grid_key(self, spec: JobSpec) -> str:
        """Key of the artwork on the burn grid."""
        part = spec.artwork.model_dump(exclude={"file", "lock_ratio"})
        return stage_key("grid", part, spec.size.cols, spec.size.rows)

    def tone_key(self, spec: JobSpec) -> str:
        """Key of the toned picture."""
        return stage_key("tone", self.grid_key(spec), spec.tone.model_dump())

    def dots_key(self, spec: JobSpec) -> str:
        """Key of the dots."""
        blank = spec.blank.model_dump() if spec.blank.keep_inside else None
        pitch = spec.size.pitch_mm if blank else None
        return stage_key(
            "dots",
            self.tone_key(spec),
            spec.substrate.polarity,
            spec.dots.model_dump(),
            blank,
            pitch,
        )

    def proof_key(self, spec: JobSpec) -> str:
        """Key of the proof."""
        return stage_key(
            "proof",
            self.dots_key(spec),
            spec.substrate.model_dump(),
            spec.machine.spot_mm / spec.size.pitch_mm,
            spec.machine.spot_shape,
        )

    def path_key(self, spec: JobSpec) -> str:
        """Key of the tool path and its time."""
        machine = spec.machine
        return stage_key(
            "path",
            self.dots_key(spec),
            repr(plan_raster(spec)),
            machine.acceleration_mm_s2,
            machine.rapid_mm_s,
        )

    # Stages.

    def artwork(self, spec: JobSpec) -> Artwork:
        """Return the picture as read."""
        key = stage_key("artwork", spec.artwork.sha256)
        return self._cache.get(key, lambda: self._load(spec))

    def grid(self, spec: JobSpec) -> NDArray[np.uint8]:
        """Return the artwork with one pixel per dot, shape (rows, cols)."""
        size = spec.size
        return self._cache.get(
            self.grid_key(spec),
            lambda: place_on_grid(
                self.artwork(spec).gray, spec.artwork, size.cols, size.rows
            ),
        )

    def toned(self, spec: JobSpec) -> NDArray[np.uint8]:
        """Return the toned picture, shape (rows, cols)."""
        return self._cache.get(
            self.tone_key(spec), lambda: apply_tone(self.grid(spec), spec.tone)
        )

    def dots(self, spec: JobSpec) -> BitGrid:
        """Return the dots that will be burned.

        Raises
        ------
        ChoiceError
            When the dot method does not exist.
        """
        return self._cache.get(self.dots_key(spec), lambda: self._make_dots(spec))

    def _make_dots(self, spec: JobSpec) -> BitGrid:
        levels = levels_to_burn(self.toned(spec), spec.substrate.polarity)
        bits = make_dots(levels, spec.dots)
        if spec.blank.keep_inside:
            return BitGrid(bits.packed & self._engravable(spec), bits.cols)
        return bits

    def _engravable(self, spec: JobSpec) -> NDArray[np.uint8]:
        """Return the packed mask of the dots that lie on the blank."""
        key = stage_key("engravable", spec.size.model_dump(), spec.blank.model_dump())
        return self._cache.get(
            key, lambda: np.packbits(engravable_mask(spec.size, spec.blank), axis=1)
        )

    def spot(self, spec: JobSpec) -> SpotModel:
        """Return the spot model of a job."""
        ratio = round(spec.machine.spot_mm / spec.size.pitch_mm, 6)
        return spot_model(ratio, spec.machine.spot_shape, spec.substrate.response)

    def marks(self, spec: JobSpec) -> NDArray[np.uint16]:
        """Return the mean mark of every dot's cell, shape (rows, cols), 65535 = full."""
        ratio, shape = spec.machine.spot_mm / spec.size.pitch_mm, spec.machine.spot_shape
        key = stage_key("marks", self.dots_key(spec), ratio, shape, spec.substrate.response)
        return self._cache.get(key, lambda: self._all_marks(spec))

    def _all_marks(self, spec: JobSpec) -> NDArray[np.uint16]:
        bits = self.dots(spec)
        framed = bits.window(-2, -1, bits.cols + 4, bits.rows + 2)
        return self.spot(spec).marks(framed)

    def palette(self, spec: JobSpec) -> Palette:
        """Return the colours of the burned piece."""
        return substrate_palette(spec.substrate)

    def proof_png(self, spec: JobSpec) -> bytes:
        """Return the proof as a PNG of one pixel per dot."""
        return proof_png(
            self.dots(spec), self.spot(spec), self.palette(spec), spec.size.pitch_mm
        )

    def estimate(self, spec: JobSpec) -> Estimate:
        """Return the time and extent of the job's tool path."""
        return self._cache.get(self.path_key(spec), lambda: self._time(spec))

    def _time(self, spec: JobSpec) -> Estimate:
        clock = _clock(spec)
        for moves in record(self.dots(spec), plan_raster(spec)):
            clock.add(moves)
        return clock.estimate()

    def write_gcode(self, spec: JobSpec, target: BinaryIO) -> Estimate:
        """Write the job's G-code and return its estimate, in one walk."""
        clock = _clock(spec)
        bands = record(self.dots(spec), plan_raster(spec))
        for moves in write_gcode(spec, bands, target):
            clock.add(moves)
        return clock.estimate()

    def facts(self, spec: JobSpec) -> Facts:
        """Return what the check rules need to know."""
        return Facts(spec, self.dots(spec).count, self.artwork(spec).two_level)

    def check(self, spec: JobSpec) -> tuple[list[Finding], list[Fine]]:
        """Return findings, worst first, and what is fine."""
        return check_job(self.facts(spec))


def _clock(spec: JobSpec) -> Clock:
    return Clock(spec.machine.acceleration_mm_s2, spec.machine.rapid_mm_s)
