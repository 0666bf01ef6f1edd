"""The registry of dot methods: one entry a method, everything follows from it.

A method turns levels (uint8, 0 = burn solid, 255 = leave) into packed dots.
Forms, help texts, the command line and the contract tests read this table.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from types import MappingProxyType
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from engraving.dots.bits import BitGrid
from engraving.dots.diffusion import diffuse
from engraving.dots.kernels import KERNELS, Kernel
from engraving.dots.ordered import bayer_thresholds, ordered, threshold
from engraving.errors import ChoiceError
from engraving.spec import DotsPart, Scan

Family = Literal["diffusion", "ordered", "threshold"]
Maker = Callable[[NDArray[np.uint8], DotsPart], NDArray[np.uint8]]


@dataclass(frozen=True)
class Method:
    """One way to make dots.

    Attributes
    ----------
    name : str
        Name in job files and on the command line.
    label : str
        Name for people.
    family : str
        ``diffusion`` methods have a scan order, ``threshold`` a level.
    reason : str
        One sentence: when to choose it.
    source : str
        Where it was published.
    make : callable
        ``(levels, settings) -> packed dots``.
    """

    name: str
    label: str
    family: Family
    reason: str
    source: str
    make: Maker


def _diffuse(
    kernel: Kernel, levels: NDArray[np.uint8], settings: DotsPart
) -> NDArray[np.uint8]:
    return diffuse(levels, kernel, serpentine=settings.scan == Scan.SERPENTINE)


def _bayer(levels: NDArray[np.uint8], _settings: DotsPart) -> NDArray[np.uint8]:
    return ordered(levels, bayer_thresholds(8))


def _threshold(levels: NDArray[np.uint8], settings: DotsPart) -> NDArray[np.uint8]:
    return threshold(levels, settings.level / 100)


_DIFFUSION: Mapping[str, tuple[str, str]] = MappingProxyType(
    {
        "floyd-steinberg": (
            "Floyd–Steinberg",
            "Fine, even grain with the most detail; the first to try.",
        ),
        "jarvis": (
            "Jarvis–Judice–Ninke",
            "Smooth tones from a wide spread; forgives a coarse spot.",
        ),
        "stucki": ("Stucki", "As smooth as Jarvis, with crisper edges."),
        "atkinson": (
            "Atkinson",
            "Clean lights and solid darks; for pictures that burn too heavy.",
        ),
        "burkes": ("Burkes", "Two rows of Stucki; open grain, sharp edges."),
        "sierra": ("Sierra", "Close to Jarvis, a little livelier."),
        "sierra-two-row": ("Sierra, two rows", "A tighter grain than Sierra."),
        "sierra-lite": ("Sierra lite", "The simplest spread; a light, quick grain."),
    }
)


def _registry() -> dict[str, Method]:
    methods = [
        Method(
            "threshold",
            "Threshold",
            "threshold",
            "Pure black and white at one level; for line art and lettering.",
            "Common practice",
            _threshold,
        )
    ]
    methods += [
        Method(
            name,
            label,
            "diffusion",
            reason,
            KERNELS[name].source,
            partial(_diffuse, KERNELS[name]),
        )
        for name, (label, reason) in _DIFFUSION.items()
    ]
    methods.append(
        Method(
            "bayer",
            "Bayer 8 × 8",
            "ordered",
            "A regular weave of 65 tones; steady on machines that judder.",
            "Bayer 1973, IEEE Int. Conf. on Communications 1:26-11",
            _bayer,
        )
    )
    return {method.name: method for method in methods}


METHODS: Mapping[str, Method] = MappingProxyType(_registry())
"""Every dot method by name."""


def method_named(name: str) -> Method:
    """Return a method by name.

    Raises
    ------
    ChoiceError
        When there is no such method; the message lists them.
    """
    try:
        return METHODS[name]
    except KeyError:
        raise ChoiceError("dot method", name, METHODS, field="method") from None


def make_dots(levels: NDArray[np.uint8], settings: DotsPart) -> BitGrid:
    """Return the dots of a picture.

    Parameters
    ----------
    levels : ndarray of uint8, shape (rows, cols)
        255 minus 255 times coverage: 0 is burned solid, 255 left untouched.
    settings : DotsPart
        Method, scan order and level.

    Raises
    ------
    ChoiceError
        When the method does not exist.
    """
    method = method_named(settings.method)
    packed = method.make(np.ascontiguousarray(levels), settings)
    return BitGrid(packed, int(levels.shape[1]))
