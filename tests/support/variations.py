"""Every value of a job, changed in turn to others that are as valid."""

import copy
from collections.abc import Iterator
from typing import Any

from pydantic import ValidationError

from engraving.dots import METHODS
from engraving.jobspec import JobSpec
from engraving.lettering import FONTS

Steps = tuple[str | int, ...]


def _words(schema: Any) -> Iterator[str]:
    """Yield every word that any choice of a job offers."""
    if isinstance(schema, dict):
        yield from (one for one in schema.get("enum", ()) if isinstance(one, str))
        schema = list(schema.values())
    if isinstance(schema, list):
        for one in schema:
            yield from _words(one)


WORDS = sorted(set(_words(JobSpec.model_json_schema())))
TEXT = "M10"
"""May stand wherever any text may, also where it is sent to a controller."""
ABSENT: dict[str, Any] = {
    "corners": [[0.05, 0], [1, 0.05], [0.95, 1], [0, 0.95]],
    "area": {"shape": "rectangle", "width_mm": 3, "height_mm": 2, "x_mm": 0, "y_mm": 0},
    "dot_pitch_mm": 0.125,
}
"""What may stand where a job has nothing."""


def leaves(data: Any, steps: Steps = ()) -> Iterator[Steps]:
    """Yield the way to each plain value of plain data, and to each list."""
    if isinstance(data, dict):
        for name, value in data.items():
            yield from leaves(value, (*steps, name))
        return
    yield steps
    if isinstance(data, list):
        for i, value in enumerate(data):
            yield from leaves(value, (*steps, i))


def _others(value: Any, name: str) -> Iterator[Any]:
    """Yield values that might stand instead of one, likely ones first."""
    if isinstance(value, bool):
        yield not value
    elif isinstance(value, int | float):
        near = [value + 1, value - 1, 0, 1, 2 * value] if isinstance(value, int) else [
            value * 1.25 + 0.05, value * 0.75, value - 0.3, value + 7.0, 0.0, 1.0
        ]  # fmt: skip
        yield from near
    elif isinstance(value, str):
        named = {"method": METHODS, "font": FONTS}.get(name)
        yield from named or (TEXT, "#7a6a5a", *WORDS)
    elif isinstance(value, list):
        yield value[:-1] if value else ABSENT.get(name, [])
        yield []
    elif value is None and name in ABSENT:
        yield ABSENT[name]


def _set(data: Any, steps: Steps, value: Any) -> Any:
    """Return data with one value changed; what lies beside the way to it is shared."""
    if not steps:
        return value
    changed = copy.copy(data)
    changed[steps[0]] = _set(data[steps[0]], steps[1:], value)
    return changed


def variations(spec: JobSpec, part: str) -> Iterator[tuple[str, JobSpec]]:
    """Yield jobs that differ from one in a single value of a part.

    Of a choice all that are valid, of anything else the first.
    """
    whole = spec.model_dump(mode="json")
    for steps in leaves(whole[part], (part,)):
        value: Any = whole
        for step in steps:
            value = value[step]
        for other in _others(value, str(steps[-1])):
            try:
                changed = JobSpec.model_validate(_set(whole, steps, other))
            except ValidationError:
                continue
            if changed == spec:
                continue
            yield f"{'.'.join(map(str, steps))}={other!r}"[:80], changed
            if not isinstance(value, str) or other == TEXT:
                break
