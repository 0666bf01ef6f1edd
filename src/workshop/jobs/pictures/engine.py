"""The one pipeline of this process, and its warming."""

import io
import threading
from functools import cache
from pathlib import Path

import numpy as np
from django.conf import settings

from engraving.artwork import Artwork, InMemorySource, Source
from engraving.dots import METHODS
from engraving.errors import ArtworkError
from engraving.jobspec import (
    ArtworkPart,
    DotsPart,
    JobSpec,
    Scan,
    SizePart,
    TonePart,
    TracePart,
)
from engraving.outline import traced
from engraving.pipeline import Pipeline, StageCache
from engraving.proof import Window, shown_marks
from workshop.jobs.pictures.store import artwork_path, read_font

LARGEST_KEPT = 20_000_000
"""Grids of up to so many dots are begun on before anybody asks."""

_ready = threading.Event()


@cache
def stage_cache() -> StageCache:
    """Return the cache of all pictures of this process."""
    return StageCache(settings.PICTURE_CACHE_BYTES)


def _kept(part: ArtworkPart) -> Path:
    """Return where a job's picture is kept."""
    path = artwork_path(part.sha256)
    if not path.is_file():
        raise ArtworkError(
            "The picture of this job is missing from the program's folder; put the file "
            "back from a copy, or give the job its picture again."
        )
    return path


@cache
def pipeline() -> Pipeline:
    """Return the pipeline that reads from the artwork store."""
    return Pipeline(Source(_kept, read_font), stage_cache())


def is_warm() -> bool:
    """Return whether every kernel has been compiled or loaded."""
    return _ready.is_set()


def warm_up() -> None:
    """Run every compiled kernel once on a tiny job, so no request compiles."""
    gray = (np.arange(64 * 64).reshape(64, 64) // 16).astype(np.uint8)
    tiny = Artwork(gray, "PNG", "gray", None, (), False)
    warm = Pipeline(InMemorySource(tiny), StageCache(1 << 20))
    base = JobSpec(
        artwork=ArtworkPart(width_px=64, height_px=64),
        size=SizePart(width_mm=3.0, height_mm=3.0, pitch_mm=0.1),
        tone=TonePart(sharpen_amount=50, shadows=20, detail_opacity=20),
    )
    for part in _every_way():
        spec = base.model_copy(update={"dots": part})
        warm.dots(spec)
        warm.short_runs(spec)
    _look_from_everywhere(warm, base)
    warm.write_gcode(base, io.BytesIO())
    warm.estimate(base.model_copy(update={"dots": DotsPart(method="power")}))
    traced(gray, (0.1, 0.1), TracePart(least_mm=0))
    _ready.set()


def _every_way() -> list[DotsPart]:
    """Return settings that together reach every kernel that makes dots."""
    ways = [DotsPart(method=name) for name in METHODS]
    ways.append(DotsPart(scan=Scan.ONE_WAY))
    ways.append(DotsPart(noise=10, edges=20))
    ways.append(DotsPart(runs="lengthen", least_run_mm=0.3))
    return ways


def _look_from_everywhere(warm: Pipeline, spec: JobSpec) -> None:
    """Paint a proof from afar, at a pixel a dot, near and very near."""
    spot, palette = warm.spot(spec), warm.palette(spec)
    for pixels in (10, 30, 60, 120):
        window = Window(0, 0, 30, 30, pixels, pixels)
        shown_marks(warm.dots(spec), window, spot, palette)
