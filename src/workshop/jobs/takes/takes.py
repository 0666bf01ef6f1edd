"""Takes: variants of a job that are kept, compared, and made anew from two."""

import hashlib
import json
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from engraving.errors import InputError
from engraving.jobspec import JobSpec, interpolate_specs, sentence
from workshop.jobs.models import Job, Take
from workshop.jobs.pictures.pieces import piece_key
from workshop.jobs.pictures.windows import view_keys
from workshop.jobs.revisions.differences import differing, said
from workshop.jobs.revisions.writer import change, relations_of, spec_of
from workshop.jobs.ticket.stage import stage_facts
from workshop.shell.numbers import whole
from workshop.shell.services import length_unit

MOST_TAKES = 26
MOST_PINNED = 4


@dataclass(frozen=True)
class TakeCard:
    """A take as its card shows it."""

    take: Take
    values: list[str]
    key: str
    current: bool
    piece: str


def take_spec(take: Take) -> JobSpec:
    """Return a take's description."""
    return JobSpec.model_validate(take.spec)


def take_of(job: Job, pk: str) -> Take:
    """Return a take of a job by its key as text.

    Raises
    ------
    InputError
        When the job has no such take.
    """
    known = whole(pk)
    found = None if known is None else job.takes.filter(pk=known).first()
    if found is None:
        raise InputError("There is no such take; it may have been dropped.")
    return found


def cards(job: Job, spec: JobSpec) -> list[TakeCard]:
    """Return the takes of a job, each with the values in which they differ."""
    found = [(take, take_spec(take)) for take in job.takes.all()]
    paths = differing(
        [one for _, one in found] if len(found) > 1 else [spec, *_specs(found)]
    )
    return [
        TakeCard(take, said(one, paths), piece_key(one), one == spec, _piece(one))
        for take, one in found
    ]


def sent(job: Job, spec: JobSpec, shown: str | None) -> dict[str, Any]:
    """Return the cards for a page, none where what it shows is these already."""
    state = _state(job)
    known = shown == state
    return {
        "takes": [] if known else cards(job, spec),
        "takes_shown": state,
        "takes_known": known,
    }


def _state(job: Job) -> str:
    """Return what tells the cards of a job's takes from all others."""
    kept = job.takes.values_list("pk", "letter", "name", "pinned")
    told = [job.number, job.state, length_unit(), *kept]
    return hashlib.sha256(repr(told).encode()).hexdigest()[:20]


def _specs(found: list[tuple[Take, JobSpec]]) -> list[JobSpec]:
    return [one for _, one in found]


def _piece(spec: JobSpec) -> str:
    """Return what the table's script needs to draw a take, as JSON."""
    keys = {f"key-{view}": key for view, key in view_keys(spec).items()}
    return json.dumps({**stage_facts(spec), **keys})


def keep(job: Job, name: str = "") -> Take:
    """Keep a job's present state.

    Raises
    ------
    InputError
        When it is kept already, or there are as many takes as letters.
    """
    spec = spec_of(job)
    data = spec.model_dump(mode="json")
    same = next((take for take in job.takes.all() if take.spec == data), None)
    if same is not None:
        raise InputError(f"This is kept already, as take {same.letter}.")
    return keep_spec(job, spec, relations_of(job), name)


def keep_spec(
    job: Job, spec: JobSpec, relations: dict[str, int | None], name: str = ""
) -> Take:
    """Keep a description as a take of a job.

    Raises
    ------
    InputError
        When there are as many takes as letters.
    """
    used = set(job.takes.values_list("letter", flat=True))
    free = [letter for letter in map(chr, range(65, 65 + MOST_TAKES)) if letter not in used]
    if not free:
        raise InputError(f"{MOST_TAKES} takes are kept; drop one first.")
    return Take.objects.create(
        job=job,
        letter=free[0],
        name=" ".join(name.split())[:60],
        spec=spec.model_dump(mode="json"),
        relations=relations,
    )


def open_take(job: Job, take: Take) -> bool:
    """Restore all settings of a take; return whether anything changed."""
    return change(job, take_spec(take), str(take), "", take.relations)


def rename(take: Take, name: str) -> None:
    """Give a take a name, or take it away."""
    take.name = " ".join(name.split())[:60]
    take.save(update_fields=["name"])


def drop(take: Take) -> None:
    """Throw a take away."""
    take.delete()


def pin(take: Take) -> None:
    """Pin a take to be laid beside others, or unpin it.

    Raises
    ------
    InputError
        When four are pinned already.
    """
    if not take.pinned and take.job.takes.filter(pinned=True).count() >= MOST_PINNED:
        raise InputError("Four takes lie side by side at most; unpin one first.")
    take.pinned = not take.pinned
    take.save(update_fields=["pinned"])


def between(first: JobSpec, second: JobSpec, share: float) -> JobSpec:
    """Return the job that lies between two.

    Raises
    ------
    InputError
        When no valid job lies there.
    """
    if not 0 <= share <= 1:
        raise InputError("The share lies between 0 and 100 %.", field="share")
    try:
        return interpolate_specs(first, second, share)
    except ValidationError as error:
        raise InputError(
            f"Nothing can be made between these two takes: {sentence(error)}"
        ) from None


def make_between(job: Job, first: Take, second: Take, share: float) -> Take:
    """Keep a new take between two, and make it the job's present state.

    Raises
    ------
    InputError
        When no valid job lies there.
    """
    spec = between(take_spec(first), take_spec(second), share)
    nearer = first if share < 0.5 else second
    name = f"{first.letter} to {second.letter}, {100 * share:.0f} %"
    with transaction.atomic():
        take = keep_spec(job, spec, nearer.relations, name)
        open_take(job, take)
    return take


@dataclass(frozen=True)
class Pane:
    """A take, or the present state, laid beside others."""

    title: str
    name: str
    take: int | None
    piece: str
    values: list[str]


@dataclass(frozen=True)
class Compared:
    """What is laid side by side; ``pair`` is whether just two takes are pinned."""

    panes: list[Pane]
    pair: bool


def compared(job: Job, spec: JobSpec) -> Compared:
    """Return what is laid side by side: the pinned takes, or one and the present state."""
    pinned = list(job.takes.filter(pinned=True))
    laid: list[tuple[str, str, int | None, JobSpec]] = [
        (str(take), take.name, take.pk, take_spec(take)) for take in pinned
    ]
    if len(laid) == 1:
        laid.append(("Now", "", None, spec))
    paths = differing([one for *_, one in laid])
    panes = [
        Pane(title, name, pk, _piece(one), said(one, paths))
        for title, name, pk, one in laid
    ]
    return Compared(panes, len(pinned) == 2)
