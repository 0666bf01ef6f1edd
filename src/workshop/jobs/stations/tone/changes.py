"""The Tone station."""

import json
from typing import Any

from engraving.errors import InputError
from engraving.jobspec import GROUPS, MOST_SHADES, JobSpec, TonePart
from engraving.tone import auto_part
from workshop.jobs.models import Job
from workshop.jobs.pictures.engine import pipeline
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.edit import Edit
from workshop.shell.numbers import finite


def show_tone(spec: JobSpec, _job: Job) -> dict[str, Any]:
    """Return what the tone station's fields show."""
    tone = spec.tone
    return {
        **tone.model_dump(exclude={"off"}),
        "reset": "",
        "auto": "",
        "curve": json.dumps(tone.curve) if tone.curve else "",
        **{f"use_{group}": group not in tone.off for group in GROUPS},
    }


def apply_tone(edit: Edit) -> None:
    """Apply what was changed on the tone station."""
    if edit.changes.pop("reset", ""):
        edit.spec = updated(edit.spec, {"tone": TonePart().model_dump()})
        return
    if edit.changes.pop("auto", ""):
        found = auto_part(TonePart(), pipeline().auto_tone(edit.spec))
        edit.spec = updated(edit.spec, {"tone": found.model_dump()})
        return
    values = {
        name: value for name, value in edit.changes.items() if not name.startswith("use_")
    }
    tone = edit.spec.tone
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
    edit.spec = updated(edit.spec, {"tone": {**values, "off": off}})


def _moved(group: str, values: dict[str, Any]) -> bool:
    return any(name in values for name in GROUPS[group])


def _points(text: str) -> list[list[float]]:
    """Return the points of a curve; one that is straight has none."""
    try:
        points = [[finite(str(x)), finite(str(y))] for x, y in json.loads(text or "[]")]
    except (ValueError, TypeError):
        raise InputError("The curve's points cannot be read.", field="curve") from None
    return [] if points == [[0.0, 0.0], [255.0, 255.0]] else points
