"""The registry of dot methods: one entry a method, everything follows from it.

A method turns levels (uint8, 0 = burn solid, 255 = leave) into dots. Forms,
help texts, the command line and the contract tests read this table.
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
from engraving.dots.ordered import (
    bayer_thresholds,
    blue_noise_moves,
    blue_noise_thresholds,
    ordered,
    otsu_share,
    threshold,
)
from engraving.dots.power import powers
from engraving.dots.run_in import rows_before
from engraving.dots.screens import SPOTS, screened
from engraving.dots.variable import diffuse_by_tone
from engraving.errors import ChoiceError
from engraving.jobspec import DotsPart, Scan

Family = Literal["diffusion", "ordered", "screen", "line", "power", "threshold"]
Cell = tuple[float, float]
Maker = Callable[[NDArray[np.uint8], DotsPart, Cell], BitGrid]

FAMILIES: Mapping[Family, str] = MappingProxyType(
    {
        "diffusion": "Diffusion",
        "ordered": "Ordered",
        "screen": "Screens",
        "line": "Lines",
        "power": "Power",
        "threshold": "Two tones",
    }
)
"""Kinds of methods and their names for people."""

_MARKS = ("ruling_cm", "angle_deg", "least_mark_mm", "most_mark_mm")


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
        One of `FAMILIES`.
    reason : str
        One sentence: when to choose it.
    source : str
        Where it was published.
    make : callable
        ``(levels, settings, cell_mm) -> dots``.
    settings : tuple of str
        The values of `DotsPart` that it reads.
    """

    name: str
    label: str
    family: Family
    reason: str
    source: str
    make: Maker
    settings: tuple[str, ...] = ()


def _bits(packed: NDArray[np.uint8], levels: NDArray[np.uint8]) -> BitGrid:
    return BitGrid(packed, int(levels.shape[1]))


def _diffuse(
    kernel: Kernel, levels: NDArray[np.uint8], settings: DotsPart, _cell: Cell
) -> BitGrid:
    noise = blue_noise_moves() * np.float32(2.55 * settings.noise)
    packed = diffuse(
        levels,
        kernel,
        serpentine=settings.scan == Scan.SERPENTINE,
        noise=noise if settings.noise else None,
        edges=settings.edges / 100,
        before=rows_before(levels) if settings.run_in else None,
    )
    return _bits(packed, levels)


def _by_tone(levels: NDArray[np.uint8], settings: DotsPart, _cell: Cell) -> BitGrid:
    turning = settings.scan == Scan.SERPENTINE
    if not settings.run_in:
        return _bits(diffuse_by_tone(levels, serpentine=turning), levels)
    before = rows_before(levels)
    packed = diffuse_by_tone(np.concatenate([before, levels]), serpentine=turning)
    return _bits(np.ascontiguousarray(packed[len(before) :]), levels)


def _bayer(levels: NDArray[np.uint8], settings: DotsPart, _cell: Cell) -> BitGrid:
    return _bits(ordered(levels, bayer_thresholds(settings.matrix)), levels)


def _blue_noise(levels: NDArray[np.uint8], _settings: DotsPart, _cell: Cell) -> BitGrid:
    return _bits(ordered(levels, blue_noise_thresholds()), levels)


def _screen(
    shape: str, levels: NDArray[np.uint8], settings: DotsPart, cell: Cell
) -> BitGrid:
    return _bits(screened(shape, levels, settings, cell), levels)


def _power(levels: NDArray[np.uint8], settings: DotsPart, _cell: Cell) -> BitGrid:
    return BitGrid.from_power(powers(levels, settings))


def _threshold(levels: NDArray[np.uint8], settings: DotsPart, _cell: Cell) -> BitGrid:
    share = otsu_share(levels) if settings.level_auto else settings.level / 100
    return _bits(threshold(levels, share), levels)


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
        "stevenson-arce": (
            "Stevenson–Arce",
            "Spread as on a honeycomb; soft, open grain for smooth skin and sky.",
        ),
    }
)

_SCREENS: Mapping[str, tuple[str, str]] = MappingProxyType(
    {
        "round": (
            "Round",
            "Dots that grow as in print; steady on machines that lose single dots.",
        ),
        "diamond": ("Diamond", "Dots that join softly; kind to faces at the middle tones."),
        "square": ("Square", "Dots that join all at once; the crispest checks."),
        "ellipse": (
            "Elliptical",
            "Dots that join one way first, into chains; the smoothest steps.",
        ),
    }
)

_LINES: Mapping[str, tuple[str, str]] = MappingProxyType(
    {
        "line": (
            "Straight",
            "Lines that swell with the tone; long burns, few starts, an etched look.",
        ),
        "wavy": ("Wavy", "Swelling lines in waves; banknote charm at larger sizes."),
        "chevron": ("Chevron", "Swelling lines in zigzag; a bold, woven look."),
    }
)

_SCREEN_SOURCE = "Holladay 1980, Proc. SID 21(2):185-192 (from memory)"


def _diffusions() -> list[Method]:
    found = [
        Method(
            name,
            label,
            "diffusion",
            reason,
            KERNELS[name].source,
            partial(_diffuse, KERNELS[name]),
            ("scan", "noise", "edges", "run_in"),
        )
        for name, (label, reason) in _DIFFUSION.items()
    ]
    by_tone = Method(
        "ostromoukhov",
        "Ostromoukhov",
        "diffusion",
        "Weights that follow the tone; the evenest grain in flat lights and darks.",
        "Ostromoukhov 2001, SIGGRAPH Proceedings 567-572",
        _by_tone,
        ("scan", "run_in"),
    )
    return [*found, by_tone]


def _screens() -> list[Method]:
    waves = ("wavelength_mm", "swing_mm")
    found = []
    for name, (label, reason) in {**_SCREENS, **_LINES}.items():
        line = name not in SPOTS
        read = _MARKS + (("every",) if line else ())
        read += waves if line and name != "line" else ()
        family: Family = "line" if line else "screen"
        make = partial(_screen, name)
        found.append(Method(name, label, family, reason, _SCREEN_SOURCE, make, read))
    return found


def _registry() -> dict[str, Method]:
    methods = [
        *_diffusions(),
        Method(
            "blue-noise",
            "Blue noise",
            "ordered",
            "Even grain without worms; the same tone always gives the same dots.",
            "Ulichney 1993, Proc. SPIE 1913:332-343",
            _blue_noise,
        ),
        Method(
            "bayer",
            "Bayer",
            "ordered",
            "A regular weave; steady on machines that judder.",
            "Bayer 1973, IEEE Int. Conf. on Communications 1:26-11",
            _bayer,
            ("matrix",),
        ),
        *_screens(),
        Method(
            "power",
            "Continuous power",
            "power",
            "No dots: power follows the tone; for a beam that can be dimmed finely.",
            "Common practice",
            _power,
            ("floor", "ceiling", "steps"),
        ),
        Method(
            "threshold",
            "Threshold",
            "threshold",
            "Pure black and white at one level; for line art and lettering.",
            "Common practice",
            _threshold,
            ("level", "level_auto"),
        ),
    ]
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


def make_dots(
    levels: NDArray[np.uint8], settings: DotsPart, cell_mm: Cell = (0.1, 0.1)
) -> BitGrid:
    """Return the dots of a picture.

    Parameters
    ----------
    levels : ndarray of uint8, shape (rows, cols)
        255 minus 255 times coverage: 0 is burned solid, 255 left untouched.
    settings : DotsPart
        Method, and what it reads.
    cell_mm : tuple of float
        Length of a dot and distance of the rows; screens have sizes in mm.

    Raises
    ------
    ChoiceError
        When the method does not exist.
    """
    method = method_named(settings.method)
    return method.make(np.ascontiguousarray(levels), settings, cell_mm)
