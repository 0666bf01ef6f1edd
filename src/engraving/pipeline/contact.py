"""Samples of a job burned in other ways, on the same crop, to choose from."""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from engraving.colour.lightness import lightness, luminance
from engraving.dots import make_dots
from engraving.jobspec import DotsPart, JobSpec
from engraving.pipeline.job import Pipeline
from engraving.pipeline.stages.tones import to_levels
from engraving.proof import Window, framed_dots
from engraving.proof.reproduction import wanted_lightness

_LEAD_IN = 48
_EYE_MM = 0.12
_TONE_MM = 0.6


@dataclass(frozen=True)
class Sample:
    """A crop of a job, burned in one way.

    Attributes
    ----------
    rgb : ndarray of uint8, shape (height, width, 3)
        Its proof, every pixel the mean light of its dots.
    tone_error : float
        Mean difference to the wanted lightness, L*, seen without detail.
    detail : float
        How much of the picture's detail is there at arm's length, 0..1: the
        correlation of what differs from its surroundings.
    """

    rgb: NDArray[np.uint8]
    tone_error: float
    detail: float


def sample(pipeline: Pipeline, spec: JobSpec, window: Window, dots: DotsPart) -> Sample:
    """Return a crop burned with other settings of the dots.

    Parameters
    ----------
    pipeline : Pipeline
        Where the toned picture comes from.
    spec : JobSpec
        The job; its own settings of the dots are not used.
    window : Window
        The crop, inside the grid.
    dots : DotsPart
        How tone becomes dots here.
    """
    spec = spec.model_copy(update={"dots": dots})
    codes, margins = _with_lead_in(pipeline.finished(spec), window)
    levels = to_levels(codes, pipeline.reproduction(spec), burns_dark=spec.burns_dark)
    grid = make_dots(levels, dots, spec.size.cell_mm)
    spot = pipeline.spot(spec)
    marks = spot.marks(framed_dots(grid, (0, 0, grid.cols, grid.rows), spot.frame))
    inner = _inner(marks, margins, window)
    palette = pipeline.palette(spec)
    rgb = palette.paint(window.averaged(inner))
    error, detail = _judged(
        palette.light[inner >> 4],
        _wanted(pipeline, spec, _inner(codes, margins, window)),
        spec,
    )
    return Sample(rgb, error, detail)


def _with_lead_in(
    codes: NDArray[np.uint8], window: Window
) -> tuple[NDArray[np.uint8], tuple[int, int]]:
    """Return the crop with some rows and columns before it, where grain settles."""
    left, top = min(window.left, _LEAD_IN), min(window.top, _LEAD_IN)
    part = codes[
        window.top - top : window.top + window.rows + 2,
        window.left - left : window.left + window.cols + 2,
    ]
    return np.ascontiguousarray(part), (top, left)


def _inner(plane: NDArray[Any], margins: tuple[int, int], window: Window) -> NDArray[Any]:
    top, left = margins
    return plane[top : top + window.rows, left : left + window.cols]


def _wanted(
    pipeline: Pipeline, spec: JobSpec, codes: NDArray[np.uint8]
) -> NDArray[np.float64]:
    """Return the luminance wanted of each dot, between the ends that dots can show."""
    bare, solid = pipeline.ends(spec)
    ends = (solid, bare) if spec.burns_dark else (bare, solid)
    return np.take(luminance(wanted_lightness(*ends)), codes)


def _judged(
    got: NDArray[np.float64], wanted: NDArray[np.float64], spec: JobSpec
) -> tuple[float, float]:
    """Return tone error in L* and the share of detail kept."""
    eye = [lightness(_blurred(one, _EYE_MM, spec)) for one in (got, wanted)]
    far = [lightness(_blurred(one, _TONE_MM, spec)) for one in (got, wanted)]
    error = float(np.abs(far[0] - far[1]).mean())
    found, sought = (near - wide for near, wide in zip(eye, far, strict=True))
    scale = float(np.sqrt((found**2).mean() * (sought**2).mean()))
    kept = float((found * sought).mean()) / scale if scale > 1e-9 else 0.0
    return error, min(max(kept, 0.0), 1.0)


def _blurred(
    light: NDArray[np.float64], sigma_mm: float, spec: JobSpec
) -> NDArray[np.float64]:
    along, pitch = spec.size.cell_mm
    plane = light.astype(np.float32)
    edge = cv2.BORDER_REFLECT
    soft = cv2.GaussianBlur(
        plane, (0, 0), max(sigma_mm / along, 0.3), sigmaY=max(sigma_mm / pitch, 0.3),
        borderType=edge,
    )  # fmt: skip
    return np.asarray(soft, np.float64)
