"""Whose tone the station shows and changes: the job's, or one pocket's own."""

from typing import Any

from engraving.jobspec import FixturePart, JobSpec, TonePart
from engraving.place import shown_piece
from workshop.jobs.revisions.writer import updated


def may_have_its_own(spec: JobSpec) -> bool:
    """Whether the pocket that is looked at holds a picture of its own."""
    return spec.fixture is not None and spec.fixture.picture == "own"


def has_its_own(spec: JobSpec) -> bool:
    """Whether the pocket that is looked at has a tone of its own."""
    fixture = spec.fixture
    return (
        fixture is not None
        and fixture.picture == "own"
        and fixture.pocket(_shown(fixture)).tone is not None
    )


def tone_of(spec: JobSpec) -> TonePart:
    """Return the tone of the piece that is looked at."""
    return shown_piece(spec).tone


def with_tone(spec: JobSpec, values: dict[str, Any]) -> JobSpec:
    """Return the job with some values changed of the tone that is looked at."""
    if not has_its_own(spec) or spec.fixture is None:
        return updated(spec, {"tone": values})
    tone = tone_of(spec).model_dump(mode="json") | values
    return with_own_tones(spec, {_shown(spec.fixture): tone})


def with_own(spec: JobSpec, *, own: bool) -> JobSpec:
    """Return the job with a tone of its own for the pocket looked at, or without."""
    if spec.fixture is None:
        return spec
    tone = tone_of(spec).model_dump(mode="json") if own else None
    return with_own_tones(spec, {_shown(spec.fixture): tone})


def with_own_tones(spec: JobSpec, tones: dict[int, dict[str, Any] | None]) -> JobSpec:
    """Return the job with other tones in some of its pockets."""
    fixture = spec.fixture
    if fixture is None:
        return spec
    pockets = [fixture.pocket(i).model_dump(mode="json") for i in range(fixture.count)]
    for index, tone in tones.items():
        pockets[index]["tone"] = tone
    return updated(spec, {"fixture": {"pockets": pockets}})


def _shown(fixture: FixturePart) -> int:
    return min(fixture.shown, fixture.count - 1)
