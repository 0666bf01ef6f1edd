"""The contact sheet: every dot method, or one at several settings, on one crop."""

import json
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache, partial

from engraving.dots import METHODS
from engraving.dots.variations import variations
from engraving.errors import InputError
from engraving.jobspec import DotsPart, JobSpec
from engraving.pipeline import stage_key, stop_if_overtaken
from engraving.pipeline.contact import Sample, sample
from engraving.proof import Window
from workshop.jobs.pictures.engine import pipeline, stage_cache
from workshop.jobs.pictures.windows import Picture, encoded_jpeg

WIDTH_PX, HEIGHT_PX = 176, 132
_PX_MM = 7.5
_CLOSEST, _FARTHEST = 8.0, 0.25


@dataclass(frozen=True)
class SheetCrop:
    """What part of the piece the sheet shows: its middle in dots, and how close."""

    x: float
    y: float
    closer: float

    @classmethod
    def read(cls, spec: JobSpec, wanted: dict[str, str]) -> "SheetCrop":
        """Return the crop asked for, the middle of the piece where none is.

        Raises
        ------
        InputError
            When a number cannot be read.
        """
        try:
            x = float(wanted.get("x") or spec.size.cols / 2)
            y = float(wanted.get("y") or spec.size.rows / 2)
            closer = float(wanted.get("closer") or 1)
        except ValueError:
            raise InputError("A contact sheet needs x, y and closer as numbers.") from None
        if not (abs(x) < 1e7 and abs(y) < 1e7 and _FARTHEST <= closer <= _CLOSEST):
            raise InputError("There is no such part of the picture.")
        return cls(x, y, closer)

    def window(self, spec: JobSpec) -> Window:
        """Return the window on the grid, moved inside it, at most the whole."""
        along, pitch = spec.size.cell_mm
        per_mm = _PX_MM * self.closer
        cols = min(max(round(WIDTH_PX / per_mm / along), 8), spec.size.cols)
        rows = min(max(round(HEIGHT_PX / per_mm / pitch), 8), spec.size.rows)
        left = min(max(round(self.x - cols / 2), 0), spec.size.cols - cols)
        top = min(max(round(self.y - rows / 2), 0), spec.size.rows - rows)
        width = max(1, min(round(cols * along * per_mm), 4 * cols))
        height = max(1, min(round(rows * pitch * per_mm), 4 * rows))
        return Window(left, top, cols, rows, width, height)


@dataclass(frozen=True)
class SheetCell:
    """One picture of the sheet."""

    label: str
    reason: str
    settings: str
    chosen: bool
    tone_error: float
    detail: float


def sheet(spec: JobSpec, crop: SheetCrop, what: str) -> list[SheetCell]:
    """Return the cells of a contact sheet.

    Parameters
    ----------
    what : str
        ``methods``, or ``settings`` of the job's own method.
    """
    window = crop.window(spec)
    pipeline().finished(spec)
    proposed = _settings(spec) if what == "settings" else _methods(spec)
    samples = _samples(spec, window, [dots for _, _, dots in proposed])
    return [
        SheetCell(
            label,
            reason,
            json.dumps(dots.model_dump(mode="json")),
            dots == spec.dots,
            found.tone_error,
            found.detail,
        )
        for (label, reason, dots), found in zip(proposed, samples, strict=True)
    ]


def cell_picture(spec: JobSpec, crop: SheetCrop, settings: str) -> Picture:
    """Return the picture of a cell.

    Raises
    ------
    InputError
        When there is no such cell.
    """
    try:
        dots = DotsPart.model_validate_json(settings)
    except ValueError:
        raise InputError("There is no such cell on the contact sheet.") from None
    return encoded_jpeg(_sample(spec, crop.window(spec), dots).rgb)


def sheet_key(spec: JobSpec) -> str:
    """Return the key of what all cells depend on; it makes their addresses unique.

    The job's own dots are no part of it, so a sheet opened again is there at once.
    """
    plain = spec.model_copy(update={"dots": DotsPart()})
    return stage_key("sheet", pipeline().proof.key(plain))


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(2, "contact")


def _samples(spec: JobSpec, window: Window, ways: list[DotsPart]) -> list[Sample]:
    """Return a sample of each way; where it is overtaken, what is not begun is let go."""
    begun, found = [_pool().submit(_sample, spec, window, one) for one in ways], []
    try:
        for one in begun:
            stop_if_overtaken()
            found.append(one.result())
    finally:
        for one in begun:
            one.cancel()
    return found


def _methods(spec: JobSpec) -> list[tuple[str, str, DotsPart]]:
    return [
        (method.label, method.reason, spec.dots.model_copy(update={"method": name}))
        for name, method in METHODS.items()
    ]


def _settings(spec: JobSpec) -> list[tuple[str, str, DotsPart]]:
    return [(label, "", dots) for label, dots in variations(spec.dots)]


def _sample(spec: JobSpec, window: Window, dots: DotsPart) -> Sample:
    key = stage_key("sample", sheet_key(spec), repr(window), dots.model_dump())
    make: Callable[[], Sample] = partial(sample, pipeline(), spec, window, dots)
    return stage_cache().get(key, make)
