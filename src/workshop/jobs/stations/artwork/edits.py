"""The Artwork station's handwork: mask, retouching, lettering, border."""

import json
from typing import Any

from engraving.errors import InputError
from engraving.jobspec import JobSpec, TextLine
from engraving.lettering import FONTS
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.edit import Edit
from workshop.shell.numbers import whole

LINE_FIELDS = {
    "text": "text",
    "font": "font",
    "cap": "cap_mm",
    "x": "x_mm",
    "y": "y_mm",
    "angle": "angle_deg",
    "arc": "arc_mm",
    "spacing": "spacing_mm",
    "look": "look",
}
"""Fields of one line of lettering and the values they stand for."""

_MASK = {
    "mask_on": "on",
    "invert": "invert",
    "grow": "grow_mm",
    "feather": "feather_mm",
    "frame": "frame",
    "frame_inset": "frame_inset_mm",
    "corner": "corner_mm",
    "vignette": "vignette_mm",
}
_BORDER = {
    "border_on": "on",
    "border_width": "width_mm",
    "border_inset": "inset_mm",
    "border_look": "look",
}


def show_edits(spec: JobSpec) -> dict[str, Any]:
    """Return what the station's fields show of the handwork."""
    mask, border = spec.mask, spec.border
    shown: dict[str, Any] = {name: getattr(mask, value) for name, value in _MASK.items()}
    shown.update({name: getattr(border, value) for name, value in _BORDER.items()})
    shown.update(
        {
            "mask_add": "",
            "mask_take": "",
            "retouch_on": spec.retouch.on,
            "retouch_add": "",
            "retouch_take": "",
            "line_add": "",
            "line_remove": "",
        }
    )
    for i, line in enumerate(spec.lettering.lines):
        for name, value in LINE_FIELDS.items():
            shown[f"line{i}_{name}"] = getattr(line, value)
    return shown


def apply_edits(edit: Edit) -> None:
    """Apply what was changed of the handwork."""
    edit.take("mask", **_MASK)
    edit.take("border", **_BORDER)
    edit.take("retouch", retouch_on="on")
    _listed(edit, "mask", "edits")
    _listed(edit, "retouch", "strokes")
    _lines(edit)


def _listed(edit: Edit, part: str, listed: str) -> None:
    """Add to a list of edits, take the last one off, or clear it."""
    items = getattr(edit.spec, part).model_dump(mode="json")[listed]
    if edit.changes.get(f"{part}_add"):
        for new in _parsed(edit.changes[f"{part}_add"], f"{part}_add"):
            hint = new.get("kind") == "hint"
            items = _hinted(items, new) if hint else [*items, new]
    how = edit.changes.get(f"{part}_take")
    if how:
        items = items[:-1] if how == "last" else []
    if items != getattr(edit.spec, part).model_dump(mode="json")[listed]:
        edit.spec = updated(edit.spec, {part: {listed: items}})


def _parsed(text: str, field: str) -> list[dict[str, Any]]:
    """Return the strokes of a post: one, or several that were drawn quickly."""
    try:
        found = json.loads(text)
    except ValueError:
        found = None
    strokes = found if isinstance(found, list) else [found]
    if not strokes or not all(isinstance(stroke, dict) for stroke in strokes):
        raise InputError("The stroke cannot be read; draw it again.", field=field)
    return strokes


def _hinted(items: list[dict[str, Any]], hint: dict[str, Any]) -> list[dict[str, Any]]:
    """Give a hint to the cut-out made last."""
    last = next(
        (i for i in reversed(range(len(items))) if items[i]["kind"] == "cutout"), None
    )
    if last is None:
        raise InputError("Cut out the subject first, then correct it.", field="mask_add")
    stroke = {name: value for name, value in hint.items() if name != "kind"}
    cut = {**items[last], "hints": [*items[last]["hints"], stroke]}
    return [*items[:last], cut, *items[last + 1 :]]


def _lines(edit: Edit) -> None:
    lines = [line.model_dump() for line in edit.spec.lettering.lines]
    before = [dict(line) for line in lines]
    for i, line in enumerate(lines):
        for name, value in LINE_FIELDS.items():
            line[value] = edit.changes.get(f"line{i}_{name}", line[value])
    gone = whole(str(edit.changes.get("line_remove", "")))
    if gone is not None and gone < len(lines):
        del lines[gone]
    if edit.changes.get("line_add"):
        lines.append(_new_line(edit.spec).model_dump())
    if lines != before:
        edit.spec = updated(edit.spec, {"lettering": {"lines": lines}})


def _new_line(spec: JobSpec) -> TextLine:
    """Return a line below the last one, as large as a tenth of the picture."""
    lines, size = spec.lettering.lines, spec.size
    if lines:
        last = lines[-1]
        below = last.y_mm - 1.6 * last.cap_mm
        return last.model_copy(update={"text": "Text", "y_mm": below, "arc_mm": 0.0})
    cap = round(max(size.height_mm / 12, 0.8), 1)
    look = "dark" if spec.burns_dark else "light"
    return TextLine(font=next(iter(FONTS)), cap_mm=cap, y_mm=-cap / 2, look=look)
