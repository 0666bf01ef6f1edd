"""In which values jobs differ, in words."""

from collections.abc import Collection, Mapping
from types import MappingProxyType
from typing import Any

from engraving.dots import METHODS
from engraving.jobspec import JobSpec
from workshop.shell.services import show_length, show_number

_WORDS: Mapping[str, tuple[str, str]] = MappingProxyType(
    {
        "dots.method": ("dots", ""),
        "tone.on": ("tone", ""),
        "tone.exposure": ("exposure", ""),
        "tone.offset": ("offset", "%"),
        "tone.input_black": ("black", ""),
        "tone.gamma": ("γ", ""),
        "tone.input_white": ("white", ""),
        "tone.output_black": ("darkest", ""),
        "tone.output_white": ("lightest", ""),
        "tone.brightness": ("brightness", "%"),
        "tone.contrast": ("contrast", "%"),
        "tone.shade": ("shades", ""),
        "tone.curve": ("curve", "points"),
        "tone.shadows": ("shadows", "%"),
        "tone.highlights": ("highlights", "%"),
        "tone.local_amount": ("local contrast", "%"),
        "tone.local_mm": ("over", "mm"),
        "tone.local_limit": ("limit", ""),
        "tone.denoise": ("denoise", "%"),
        "tone.blur_dots": ("blur", "dots"),
        "tone.sharpen_amount": ("sharpen", "%"),
        "tone.sharpen_dots": ("radius", "dots"),
        "tone.sharpen_threshold": ("threshold", ""),
        "tone.detail_opacity": ("high-pass", "%"),
        "tone.detail_dots": ("its radius", "dots"),
        "tone.off": ("passed over", "things"),
        "dots.scan": ("scan", ""),
        "dots.level": ("level", "%"),
        "dots.noise": ("noise", "%"),
        "dots.edges": ("edges", "%"),
        "dots.run_in": ("dots from the first row", ""),
        "dots.matrix": ("cell", "dots"),
        "dots.ruling_cm": ("lines a cm", ""),
        "dots.angle_deg": ("angle", "°"),
        "dots.least_mark_mm": ("smallest mark", "mm"),
        "dots.most_mark_mm": ("largest mark", "mm"),
        "dots.every": ("each n-th line", ""),
        "dots.wavelength_mm": ("wavelength", "mm"),
        "dots.swing_mm": ("swing", "mm"),
        "dots.floor": ("least power", "%"),
        "dots.ceiling": ("most power", "%"),
        "dots.steps": ("steps", ""),
        "dots.runs": ("short runs", ""),
        "reproduction.mode": ("tones", ""),
        "size.pitch_mm": ("rows", "mm"),
        "size.width_mm": ("width", "mm"),
        "size.height_mm": ("height", "mm"),
        "burn.speed_mm_s": ("speed", "mm/s"),
        "burn.power": ("power", "%"),
        "burn.passes": ("passes", ""),
        "substrate.name": ("on", ""),
        "substrate.colour": ("colour", ""),
        "blank.name": ("blank", ""),
        "machine.name": ("machine", ""),
    }
)
_OTHER = {
    "artwork": "artwork",
    "mask": "background",
    "retouch": "retouching",
    "lettering": "lettering",
    "border": "border",
    "place": "place",
    "side": "side",
}


_BRINGS_ROWS = {"substrate", "blank", "machine"}


def also_changed(before: JobSpec, after: JobSpec, typed: Collection[str]) -> str:
    """Say what a choice changed that nobody may expect of it: how far rows lie apart.

    Parameters
    ----------
    typed : collection of str
        The fields that were changed by hand.
    """
    was, now = before.size.pitch_mm, after.size.pitch_mm
    if was == now or not _BRINGS_ROWS & set(typed):
        return ""
    return (
        f"Rows lie {show_length(now, 3)} apart now, as the recipe has them; they lay "
        f"{show_length(was, 3)} apart. Undo takes it back."
    )


def differing(specs: list[JobSpec]) -> list[str]:
    """Return the paths of the values that are not the same in all jobs, in order."""
    flat = [_flat(spec) for spec in specs]
    paths = list(dict.fromkeys(path for one in flat for path in one))
    return [path for path in paths if len({repr(one.get(path)) for one in flat}) > 1]


def _flat(spec: JobSpec) -> dict[str, Any]:
    data = spec.model_dump(mode="json")
    found = {path: data[path.split(".")[0]][path.split(".")[1]] for path in _WORDS}
    found.update({part: data[part] for part in _OTHER})
    return found


def said(spec: JobSpec, paths: list[str]) -> list[str]:
    """Return a job's values at some paths, each in a few words."""
    flat = _flat(spec)
    return [_say(path, flat[path]) for path in paths]


def named(path: str, value: Any) -> str:
    """Return a value of a job in a few words, whatever it is of."""
    if path in _WORDS:
        return _say(path, value)
    part, _, name = path.partition(".")
    words = name.removesuffix("_mm").removesuffix("_deg").replace("_", " ")
    plain = isinstance(value, int | float | str) and not isinstance(value, bool)
    shown = show_number(value, 3) if isinstance(value, int | float) else str(value)
    what = f"{_OTHER.get(part, part)} {words}".strip()
    return f"{what} {shown}" if plain else f"another {what}"


def _say(path: str, value: Any) -> str:
    if path in _OTHER:
        return f"another {_OTHER[path]}"
    name, unit = _WORDS[path]
    if path == "dots.method":
        return METHODS[value].label if value in METHODS else str(value)
    if isinstance(value, bool):
        return f"{name} {'on' if value else 'off'}"
    if isinstance(value, list):
        return f"{len(value)} {unit} {name}" if unit == "things" else f"{len(value)} {unit}"
    if unit == "mm" and isinstance(value, int | float):
        return f"{name} {show_length(value, 3 if path == 'size.pitch_mm' else 2)}"
    shown = show_number(value, 2) if isinstance(value, int | float) else str(value)
    return f"{name} {shown} {unit}".strip() if value != "" else f"no {name}"
