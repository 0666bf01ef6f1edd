"""The Tone station."""

import json
from collections.abc import Collection
from typing import Any

from engraving.errors import InputError
from engraving.jobspec import GROUPS, MOST_SHADES, JobSpec, TonePart
from engraving.place import piece_at, shown_piece
from engraving.tone import auto_part
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.stations.edit import Edit
from workshop.jobs.stations.tone.whose import (
    has_its_own,
    tone_of,
    with_own,
    with_own_tones,
    with_tone,
)
from workshop.shell.numbers import finite


def show_tone(spec: JobSpec, _job: Job) -> dict[str, Any]:
    """Return what the tone station's fields show."""
    tone = tone_of(spec)
    return {
        "own": has_its_own(spec),
        "each": "",
        **tone.model_dump(exclude={"off"}),
        "reset": "",
        "auto": "",
        "curve": json.dumps(tone.curve) if tone.curve else "",
        **{f"use_{group}": group not in tone.off for group in GROUPS},
    }


def apply_tone(edit: Edit) -> None:
    """Apply what was changed on the tone station."""
    if "own" in edit.changes:
        edit.spec = with_own(edit.spec, own=bool(edit.changes.pop("own")))
    if edit.changes.pop("each", ""):
        edit.spec = fitted_to_each(edit.spec)
        return
    if edit.changes.pop("reset", ""):
        edit.spec = with_tone(edit.spec, TonePart().model_dump())
        return
    if edit.changes.pop("auto", ""):
        found = fitted(shown_piece(edit.spec))
        edit.spec = with_tone(edit.spec, found.model_dump(mode="json"))
        return
    values = {
        name: value for name, value in edit.changes.items() if not name.startswith("use_")
    }
    tone = tone_of(edit.spec)
    off = [
        group
        for group in GROUPS
        if not edit.changes.get(f"use_{group}", group not in tone.off)
    ]
    # A control that is moved is meant to count.
    off = [group for group in off if not _moved(group, values)]
    if "curve" in values:
        values["curve"] = _points(values["curve"])
    if "shade" in values:
        values["shade"] = min(max(values["shade"] or 0, -MOST_SHADES), MOST_SHADES)
    edit.spec = with_tone(edit.spec, {**values, "off": off})


def fitted(spec: JobSpec) -> TonePart:
    """Return the tone that is fitted to a piece's picture and substrate."""
    return auto_part(TonePart(), pipeline().auto_tone(spec))


def fitted_to_each(spec: JobSpec, pockets: Collection[int] | None = None) -> JobSpec:
    """Return the job with a tone for each pocket that holds a picture of its own.

    Parameters
    ----------
    pockets : collection of int, optional
        Only these.
    """
    fixture = spec.fixture
    if fixture is None or fixture.picture != "own":
        return spec
    full = [
        i
        for i in range(fixture.count)
        if fixture.pocket(i).artwork is not None and (pockets is None or i in pockets)
    ]
    tones = {i: fitted(piece_at(spec, i, at=0)) for i in full}
    return with_own_tones(
        spec, {i: one.model_dump(mode="json") for i, one in tones.items()}
    )


def _moved(group: str, values: dict[str, Any]) -> bool:
    return any(name in values for name in GROUPS[group])


def _points(text: str) -> list[list[float]]:
    """Return the points of a curve; one that is straight has none."""
    try:
        points = [[finite(str(x)), finite(str(y))] for x, y in json.loads(text or "[]")]
    except (ValueError, TypeError):
        raise InputError("The curve's points cannot be read.", field="curve") from None
    return [] if points == [[0.0, 0.0], [255.0, 255.0]] else points
