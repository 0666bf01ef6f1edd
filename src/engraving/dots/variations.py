"""One dot method at several settings, to be compared on a contact sheet."""

from collections.abc import Callable, Iterator, Mapping
from types import MappingProxyType
from typing import Any

from engraving.dots.registry import method_named
from engraving.jobspec import LARGEST_SCREEN_MM, DotsPart

Proposals = Iterator[tuple[str, dict[str, Any]]]

_RULINGS = (0.5, 0.7, 1.4, 2.0)
_ANGLES = (0.0, 15.0, 30.0, 45.0, 60.0, 75.0)
_POWER_STEPS = (4, 8, 16, 32, 64, 256)
_LEVELS = (30.0, 40.0, 50.0, 60.0, 70.0)


def variations(settings: DotsPart) -> list[tuple[str, DotsPart]]:
    """Return settings near the given ones, each with a few words; these come first."""
    read = set(method_named(settings.method).settings)
    seen = {_values(settings, read)}
    found = [("As it is", settings)]
    for label, values in _proposed(settings, read):
        other = settings.model_copy(update=values)
        if _values(other, read) not in seen:
            seen.add(_values(other, read))
            found.append((label, other))
    return found


def _values(settings: DotsPart, names: set[str]) -> tuple[Any, ...]:
    return tuple(getattr(settings, name) for name in sorted(names))


def _proposed(settings: DotsPart, read: set[str]) -> Proposals:
    for name, propose in _PROPOSALS.items():
        if name in read:
            yield from propose(settings)


def _scans(_settings: DotsPart) -> Proposals:
    yield "Serpentine", {"scan": "serpentine"}
    yield "One way", {"scan": "one-way"}


def _thresholds(_settings: DotsPart) -> Proposals:
    for share in (5, 10, 20):
        yield f"Noise {share} %", {"noise": float(share)}
    for share in (40, 80, 150):
        yield f"Edges {share} %", {"edges": float(share)}
    yield "Noise 10 %, edges 80 %", {"noise": 10.0, "edges": 80.0}


def _matrices(_settings: DotsPart) -> Proposals:
    for size in (2, 4, 8, 16):
        yield f"{size} × {size}", {"matrix": size}


def _rulings(settings: DotsPart) -> Proposals:
    for times in _RULINGS:
        ruling = round(min(max(settings.ruling_cm * times, 0.2), 200), 2)
        yield f"{ruling:g} a cm", {"ruling_cm": ruling}
    for angle in _ANGLES:
        yield f"{angle:g}°", {"angle_deg": angle}


def _waves(settings: DotsPart) -> Proposals:
    for times in (0.5, 2.0):
        wave = round(min(max(settings.wavelength_mm * times, 0.2), 500), 2)
        yield f"Waves of {wave:g} mm", {"wavelength_mm": wave}
        swing = round(min(settings.swing_mm * times, LARGEST_SCREEN_MM), 2)
        yield f"Swing {swing:g} mm", {"swing_mm": swing}


def _powers(_settings: DotsPart) -> Proposals:
    for count in _POWER_STEPS:
        yield f"{count} steps", {"steps": count}


def _levels(_settings: DotsPart) -> Proposals:
    yield "By the picture", {"level_auto": True}
    for level in _LEVELS:
        yield f"Level {level:g} %", {"level": level, "level_auto": False}


_PROPOSALS: Mapping[str, Callable[[DotsPart], Proposals]] = MappingProxyType(
    {
        "scan": _scans,
        "noise": _thresholds,
        "matrix": _matrices,
        "ruling_cm": _rulings,
        "wavelength_mm": _waves,
        "steps": _powers,
        "level": _levels,
    }
)
