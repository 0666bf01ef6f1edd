"""The Dots station."""

import json
import re
from typing import Any

from engraving.dots import METHODS
from engraving.errors import InputError
from engraving.jobspec import DotsPart, JobSpec
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.dots.ways import apply_ways, show_ways
from workshop.jobs.stations.edit import Edit
from workshop.shell.numbers import finite

_CM_PER_INCH = 2.54
_OF_REPRODUCTION = ("mode", "patches")
_TIED = ("ruling_cm", "ruling_inch", "ruling_mm")


def show_dots(spec: JobSpec, _job: Job) -> dict[str, Any]:
    """Return what the dots station's fields show."""
    dots = spec.dots
    method = METHODS.get(dots.method)
    return {
        **dots.model_dump(mode="json"),
        "family": method.family if method else "",
        "choose": "",
        "matrix": str(dots.matrix),
        "ruling_inch": dots.ruling_cm * _CM_PER_INCH,
        "ruling_mm": 10 / dots.ruling_cm,
        "mode": spec.reproduction.mode,
        "patches": patches_text(spec),
        **show_ways(spec),
    }


def patches_text(spec: JobSpec) -> str:
    """Return measured patches as they are typed: share and lightness, pair by pair."""
    return ", ".join(f"{share:g} {light:g}" for share, light in spec.reproduction.patches)


def apply_dots(edit: Edit) -> None:
    """Apply what was changed on the dots station."""
    changes = edit.changes
    if changes.get("choose"):
        edit.spec = updated(edit.spec, {"dots": _chosen(changes["choose"])})
        return
    reproduction = {name: changes[name] for name in _OF_REPRODUCTION if name in changes}
    if "patches" in reproduction:
        reproduction["patches"] = read_patches(reproduction["patches"])
    dots = {
        name: value
        for name, value in changes.items()
        if name in DotsPart.model_fields and name not in _TIED
    }
    if "matrix" in dots:
        dots["matrix"] = int(dots["matrix"])
    if edit.has("family") and not edit.has("method"):
        dots["method"] = _first_of(changes["family"])
    edit.spec = updated(
        edit.spec, {"dots": {**dots, **_ruling(changes)}, "reproduction": reproduction}
    )
    apply_ways(edit)


def _chosen(text: str) -> dict[str, Any]:
    """Return the values that a cell of the contact sheet stands for."""
    try:
        values = json.loads(text)
        return {name: values[name] for name in DotsPart.model_fields if name in values}
    except (ValueError, TypeError):
        raise InputError("There is no such cell on the contact sheet.") from None


def _first_of(family: str) -> str:
    return next(name for name, method in METHODS.items() if method.family == family)


def _ruling(changes: dict[str, Any]) -> dict[str, float]:
    if changes.get("ruling_cm"):
        return {"ruling_cm": changes["ruling_cm"]}
    if changes.get("ruling_inch"):
        return {"ruling_cm": changes["ruling_inch"] / _CM_PER_INCH}
    if changes.get("ruling_mm"):
        return {"ruling_cm": 10 / changes["ruling_mm"]}
    return {}


def read_patches(text: str) -> list[list[float]]:
    """Return pairs of burned share in % and lightness L* from typed text.

    Raises
    ------
    InputError
        When it is no list of pairs.
    """
    pairs = [part.split() for part in re.split(r"[,;\n]", text) if part.strip()]
    try:
        return [[finite(share), finite(light)] for share, light in pairs]
    except ValueError:
        raise InputError(
            "Type pairs of burned share and lightness, as in 0 78, 10 66, 50 38, 100 24.",
            field="patches",
        ) from None
