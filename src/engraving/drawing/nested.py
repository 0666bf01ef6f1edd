"""An `svg` inside another as a plain group with its place and scale (SVG 2, 8.2)."""

import math
import re
from xml.etree.ElementTree import Element

import svgelements

_ALIGN = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
_SHARES = {
    **dict.fromkeys(("x", "width", "cx", "rx", "x1", "x2"), "across"),
    **dict.fromkeys(("y", "height", "cy", "ry", "y1", "y2"), "down"),
    "r": "both",
}
_DEFAULT = "xMidYMid meet"


def as_group(root: Element) -> None:
    """Change every inner `svg` of a drawing into a group, in place."""
    box = _numbers(root.get("viewBox"))
    wide = box[2] if box else _length(root.get("width"), 300.0)
    high = box[3] if box else _length(root.get("height"), 150.0)
    _change(root, wide, high)


def _change(parent: Element, wide: float, high: float) -> None:
    for child in parent:
        _settle(child, wide, high)
        inner = wide, high
        if child.tag.rsplit("}", 1)[-1] == "svg":
            inner = _regroup(child, wide, high)
        _change(child, *inner)


def _settle(element: Element, wide: float, high: float) -> None:
    """Give an element's lengths that are shares of its drawing in numbers (SVG 2, 8.9)."""
    whole = {"across": wide, "down": high, "both": math.hypot(wide, high) / math.sqrt(2)}
    for name, value in element.attrib.items():
        if name in _SHARES and value.strip().endswith("%"):
            share = float(value.strip()[:-1]) / 100
            element.set(name, f"{share * whole[_SHARES[name]]:.9g}")


def _regroup(child: Element, wide: float, high: float) -> tuple[float, float]:
    """Return the room that the inner drawing's percentages are of."""
    x, y = _length(child.get("x"), 0.0, wide), _length(child.get("y"), 0.0, high)
    own_wide = _length(child.get("width"), wide, wide)
    own_high = _length(child.get("height"), high, high)
    box = _numbers(child.get("viewBox"))
    placed = f"translate({x:.9g} {y:.9g})"
    if box and box[2] > 0 and box[3] > 0:
        placed += _fitted(box, own_wide, own_high, child.get("preserveAspectRatio"))
    child.tag = child.tag[: -len("svg")] + "g"
    child.set("transform", child.get("transform", "") + placed)
    for name in ("x", "y", "width", "height", "viewBox", "preserveAspectRatio"):
        child.attrib.pop(name, None)
    return (box[2], box[3]) if box else (own_wide, own_high)


def _fitted(box: list[float], wide: float, high: float, told: str | None) -> str:
    left, top, long, deep = box
    across, down = wide / long, high / deep
    align, _, how = (told or _DEFAULT).strip().partition(" ")
    found = re.fullmatch(r"x(Min|Mid|Max)Y(Min|Mid|Max)", align)
    if align == "none" or not found:
        return f"scale({across:.9g} {down:.9g})translate({-left:.9g} {-top:.9g})"
    same = max(across, down) if how.strip() == "slice" else min(across, down)
    x = (wide - long * same) * _ALIGN[found[1]]
    y = (high - deep * same) * _ALIGN[found[2]]
    return f"translate({x:.9g} {y:.9g})scale({same:.9g})translate({-left:.9g} {-top:.9g})"


def _length(text: str | None, other: float, whole: float | None = None) -> float:
    if not text:
        return other
    value = svgelements.Length(text).value(ppi=96.0, relative_length=whole or other)
    return float(value) if isinstance(value, int | float) else other


def _numbers(text: str | None) -> list[float]:
    found = [float(one) for one in re.split(r"[\s,]+", (text or "").strip()) if one]
    return found if len(found) == 4 else []
