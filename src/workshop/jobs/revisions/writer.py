"""The one writer of jobs: each change is a revision, and none is lost to another.

Requests come from several pages, and from several people. A change is made of the job
as its writer saw it; before it is written the row is locked, and where the job is no
longer that one, the two changes are laid together: fields that only one of them touched
stand as that one left them, and of a field that both touched the later one's stands,
with the other's told (`met`) and one step of undo away.
"""

import threading
from collections import OrderedDict
from collections.abc import Mapping
from contextvars import ContextVar
from datetime import timedelta
from functools import cache
from typing import Annotated, Any, TypeVar

from django.core.signals import request_started
from django.db import transaction
from django.db.models import Model
from django.dispatch import receiver
from django.utils import timezone
from pydantic import TypeAdapter, ValidationError

from engraving.errors import InputError
from engraving.jobspec import JobSpec, sentence
from engraving.jobspec.base import Part
from engraving.place import shown_piece
from workshop.jobs.models import Artwork, Job, Revision, state_digest
from workshop.jobs.revisions.differences import named
from workshop.shelf.models import Blank, Machine, Recipe, Substrate
from workshop.shell.services import operator

T = TypeVar("T")
Relations = dict[str, int | None]


class StaleError(Exception):
    """The job is not any more what a change was made of."""


_ONE_STROKE = timedelta(seconds=2)
_RELATIONS: dict[str, type[Model]] = {
    "artwork": Artwork,
    "machine": Machine,
    "substrate": Substrate,
    "blank": Blank,
    "recipe": Recipe,
}

_met: ContextVar[str] = ContextVar("met", default="")
"""What this request's change met with; see `met`."""


@receiver(request_started, dispatch_uid="nothing met yet")
def _begin_request(**_: object) -> None:
    """Forget what an earlier request of this thread met with and told nobody."""
    _met.set("")


_MOST_READ = 128
_read: OrderedDict[str, tuple[dict[str, Any], JobSpec]] = OrderedDict()
_reading = threading.Lock()


def spec_of(job: Job) -> JobSpec:
    """Return a job's description: of one state the same object, read once."""
    data, state = job.spec_data, job.state
    with _reading:
        known = _read.get(state)
    if known is not None and known[0] == data:
        return known[1]
    spec = JobSpec.model_validate(data)
    with _reading:
        _read[state] = data, spec
        while len(_read) > _MOST_READ:
            _read.popitem(last=False)
    return spec


def shown_spec(job: Job) -> JobSpec:
    """Return the description of the piece that is looked at: one pocket's, in a fixture."""
    return shown_piece(spec_of(job))


def relations_of(job: Job) -> Relations:
    """Return the shelf items and the artwork a job stands on, by name."""
    return {name: getattr(job, f"{name}_id") for name in _RELATIONS}


def met() -> str:
    """Return what the last change met with, as a sentence, once; empty when nothing."""
    said = _met.get()
    _met.set("")
    return said


def updated(spec: JobSpec, changes: Mapping[str, Any]) -> JobSpec:
    """Return a spec with some values of some parts changed.

    Each part that changes is checked. Whether the parts go together is seen when
    the job is written, after all of a command's changes: what lies between may
    be no valid job.

    Raises
    ------
    InputError
        When a part is not valid; ``field`` names the value at fault.
    """
    made = {}
    for part, values in changes.items():
        now = getattr(spec, part)
        if isinstance(values, dict) and isinstance(now, Part):
            made[part] = _checked(_part_of(part), {**now.model_dump(mode="json"), **values})
        else:
            made[part] = _checked(_part_of(part), values)
    return spec.model_copy(update=made)


@cache
def _part_of(name: str) -> TypeAdapter[Any]:
    field = JobSpec.model_fields[name]
    kind: Any = field.annotation
    return TypeAdapter(Annotated[kind, *field.metadata] if field.metadata else kind)


_whole: TypeAdapter[JobSpec] = TypeAdapter(JobSpec)


def checked(spec: JobSpec) -> JobSpec:
    """Return a job whose parts have changed, checked as a whole.

    Raises
    ------
    InputError
        When it is no valid job.
    """
    return _checked(_whole, spec.model_dump(mode="json"), within=1)


def _checked(kind: TypeAdapter[T], data: Any, *, within: int = 0) -> T:
    """Return checked data; the fault's field is named `within` so many steps."""
    try:
        return kind.validate_python(data)
    except ValidationError as error:
        steps = error.errors()[0]["loc"]
        field = str(steps[within]) if len(steps) > within else ""
        raise InputError(sentence(error), field=field) from None


@transaction.atomic
def begin(job: Job, spec: JobSpec, label: str, relations: Relations) -> None:
    """Write the first revision of a job."""
    _append(job, None, checked(spec), label, "", relations)


def change(
    job: Job,
    spec: JobSpec,
    label: str,
    touched: str = "",
    relations: Relations | None = None,
    *,
    only_as_seen: bool = False,
) -> bool:
    """Make a revision of a job; return whether anything changed.

    Changes of the same field in quick succession are one revision, so that
    dragging a slider can be undone in one step.

    Parameters
    ----------
    job : Job
        As the change was made of it; left as it is now.
    spec : JobSpec
        What it should be.
    relations : dict, optional
        The shelf items and the artwork that change.
    only_as_seen : bool
        Write nothing where another change came before this one.

    Raises
    ------
    StaleError
        When another change came before, and `only_as_seen`.
    InputError
        When this is no valid job, or when another change came before this one
        and no valid job is both.
    """
    spec = checked(spec)
    merged = {**relations_of(job), **(relations or {})}
    if spec == spec_of(job) and merged == relations_of(job):
        return False
    with transaction.atomic():
        seen, now = job.state, _locked(job)
        if now.state != seen:
            if only_as_seen:
                raise StaleError
            spec, merged = _laid_together(job, spec, merged, now)
            touched = ""
        _append(job, now.head, spec, label, touched, merged)
    return True


def _locked(job: Job) -> Job:
    """Return the job as it stands in the base; the transaction holds it from here on."""
    return Job.objects.select_related("head").select_for_update().get(pk=job.pk)


def _laid_together(
    job: Job, spec: JobSpec, relations: Relations, now: Job
) -> tuple[JobSpec, Relations]:
    """Return a change of an older state, made to the present one."""
    before, theirs = spec_of(job), spec_of(now)
    data, wanted = (one.model_dump(mode="json") for one in (theirs, spec))
    for part, name in _differing(before, spec):
        if name and data[part] is not None:
            data[part][name] = wanted[part][name]
        else:
            data[part] = wanted[part]
    old = relations_of(job)
    changed = {name: pk for name, pk in relations.items() if pk != old[name]}
    tell(before, theirs, spec)
    try:
        return _checked(_whole, data), {**relations_of(now), **changed}
    except InputError:
        raise InputError(
            "This ticket was changed on another page meanwhile, and the two changes do "
            "not go together. Look at it again, and change it once more."
        ) from None


def tell(before: JobSpec, theirs: JobSpec, mine: JobSpec) -> None:
    """Note for `met` what two changes of one job both touched, and what the first made."""
    twice = [one for one in _differing(before, mine) if one in _differing(before, theirs)]
    data, wanted = (one.model_dump(mode="json") for one in (theirs, mine))
    lost = [
        named(".".join(filter(None, one)), _value(data, one) if one[1] else None)
        for one in twice
        if _value(data, one) != _value(wanted, one)
    ]
    both = "This ticket was changed on another page meanwhile; both changes stand."
    there = f" It had {', '.join(lost)} there; Undo goes back to it." if lost else ""
    _met.set(both + there)


def _value(data: dict[str, Any], path: tuple[str, str]) -> Any:
    """Return a value of a job, or its whole part; None where the job has no such part."""
    part, name = path
    return data[part][name] if name and data[part] is not None else data[part]


def _differing(first: JobSpec, second: JobSpec) -> list[tuple[str, str]]:
    """Return part and name of each value that differs; no name where a part is whole."""
    found = []
    one, other = first.model_dump(mode="json"), second.model_dump(mode="json")
    for part in one:
        if isinstance(one[part], dict) and isinstance(other[part], dict):
            found += [
                (part, name) for name in one[part] if one[part][name] != other[part][name]
            ]
        elif one[part] != other[part]:
            found.append((part, ""))
    return found


def _append(
    job: Job,
    head: Revision | None,
    spec: JobSpec,
    label: str,
    touched: str,
    relations: Relations,
) -> None:
    data = spec.model_dump(mode="json")
    digest = state_digest(data, relations)
    if head and touched and _continues(head, touched, job):
        head.spec, head.relations, head.digest = data, relations, digest
        head.save(update_fields=["spec", "relations", "digest", "changed"])
    else:
        if head:
            job.revisions.filter(number__gt=head.number).delete()
        head = Revision.objects.create(
            job=job,
            number=_next_number(job),
            spec=data,
            label=label[:120],
            touched=touched[:120],
            relations=relations,
            digest=digest,
            author=operator.get()(),
        )
    _point_at(job, head)


def _next_number(job: Job) -> int:
    """Return a number that no revision of the job has or had."""
    number = Job.objects.values_list("revisions_made", flat=True).get(pk=job.pk) + 1
    Job.objects.filter(pk=job.pk).update(revisions_made=number)
    return number


def _continues(head: Revision, touched: str, job: Job) -> bool:
    fresh = timezone.now() - head.changed < _ONE_STROKE and head.author == operator.get()()
    last = not job.revisions.filter(number__gt=head.number).exists()
    return fresh and last and head.touched == touched


def _point_at(job: Job, revision: Revision) -> None:
    job.head = revision
    job.name = revision.spec["name"]
    job.burned_at = None
    for name, model in _RELATIONS.items():
        pk = revision.relations.get(name)
        if pk == getattr(job, f"{name}_id") or (name == "artwork" and pk is None):
            continue
        known = pk is not None and model._default_manager.filter(pk=pk).exists()  # noqa: SLF001
        setattr(job, f"{name}_id", pk if known else None)
    job.save(update_fields=["head", "name", "burned_at", *_RELATIONS])


ON_THE_TICKET = ("customer", "note", "due")
"""What a ticket says besides its job; no revision holds it."""


def rename(job: Job, name: str, **said: Any) -> None:
    """Give a job another name, or its ticket something else to say.

    Parameters
    ----------
    name : str
        Empty leaves it as it is.
    said
        Of `ON_THE_TICKET`.
    """
    for field, value in said.items():
        setattr(job, field, value)
    job.save(update_fields=list(said))
    if name.strip():
        change(job, updated(spec_of(job), {"name": name}), "Name", "name")


@transaction.atomic
def undo(job: Job) -> str:
    """Step back one revision; return what was undone, empty when there is nothing."""
    head = _locked(job).head
    before = job.revisions.filter(number__lt=head.number).last() if head else None
    if not before or not head:
        return ""
    _point_at(job, before)
    return head.label


@transaction.atomic
def redo(job: Job) -> str:
    """Step forward one revision; return what was redone, empty when there is nothing."""
    head = _locked(job).head
    after = job.revisions.filter(number__gt=head.number).first() if head else None
    if not after:
        return ""
    _point_at(job, after)
    return after.label


def can_undo_redo(job: Job) -> tuple[bool, bool]:
    """Return whether there is something to undo and to redo."""
    if not job.head:
        return False, False
    numbers = list(job.revisions.values_list("number", flat=True))
    return min(numbers) < job.head.number, max(numbers) > job.head.number
