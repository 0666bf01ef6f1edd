"""Patterns: settings kept under a name, for pictures that are dropped on it."""

from collections.abc import Collection, Mapping
from types import MappingProxyType

from django.db import transaction

from engraving.errors import EngravingError, InputError
from engraving.jobspec import JobSpec
from workshop.jobs.models import Artwork, Job, Pattern
from workshop.jobs.patterns.again import with_fitted_tone, with_other_picture
from workshop.jobs.revisions.writer import change, relations_of, spec_of
from workshop.jobs.stations.dots.ways import in_way, way_for
from workshop.jobs.stations.edit import refitted
from workshop.jobs.stations.shelf_items import centre_on_bed
from workshop.jobs.ticket.lifecycle import open_job

PARTS: Mapping[str, tuple[str, ...]] = MappingProxyType(
    {
        "lettering": ("lettering", "border"),
        "blank": ("blank", "substrate", "side", "size"),
        "tone": ("tone",),
        "dots": ("marking", "dots", "reproduction"),
        "burn": ("machine", "burn"),
        "outlines": ("operations",),
        "place": ("place", "mount", "fixture"),
    }
)
"""What a pattern may hold, by the part of the ticket: the job's parts."""
_OF_SHELF = MappingProxyType(
    {"blank": ("blank", "substrate"), "burn": ("machine", "recipe")}
)


@transaction.atomic
def keep(job: Job, name: str, parts: Collection[str]) -> Pattern:
    """Keep a ticket's settings as a pattern, or as the next version of the one so named.

    Raises
    ------
    InputError
        When it has no name, or nothing is to be kept, or the ticket burns a card.
    """
    name = " ".join(name.split())[:100]
    chosen = [one for one in PARTS if one in parts]
    spec = spec_of(job)
    if not name:
        raise InputError("Give the pattern a name.", field="name")
    if not chosen:
        raise InputError("Choose at least one part to keep.", field="parts")
    if spec.card is not None:
        raise InputError("A swatch card cannot be kept as a pattern.")
    values = {
        "spec": spec.model_dump(mode="json"),
        "relations": relations_of(job),
        "parts": chosen,
    }
    pattern = Pattern.objects.select_for_update().filter(name=name).first()
    if pattern is None:
        pattern = Pattern(name=name)
    elif any(getattr(pattern, field) != value for field, value in values.items()):
        pattern.version += 1
    for field, value in values.items():
        setattr(pattern, field, value)
    pattern.save()
    Job.objects.filter(pk=job.pk).update(pattern=pattern, pattern_version=pattern.version)
    return pattern


def open_by(pattern: Pattern, artwork: Artwork, *, fit_tone: bool) -> Job:
    """Open a ticket for a picture by a pattern.

    Parameters
    ----------
    fit_tone : bool
        Fit the tone to the picture, whatever the pattern holds.
    """
    job = open_job(artwork)
    try:
        spec = with_other_picture(laid_over(pattern, spec_of(job)), artwork)
        if "place" not in pattern.parts:
            spec = centre_on_bed(spec)
        # Outside of a transaction: nobody waits for the base while a tone is fitted.
        spec = with_fitted_tone(spec) if fit_tone else spec
        _change(job, pattern, spec)
    except EngravingError:
        job.delete()
        raise
    return job


def take_newest(job: Job) -> bool:
    """Lay a pattern's newest version over a ticket made by it; its picture stays."""
    pattern = job.pattern
    if pattern is None:
        return False
    return _change(job, pattern, refitted(laid_over(pattern, spec_of(job))))


def _change(job: Job, pattern: Pattern, spec: JobSpec) -> bool:
    relations = relations_of(job)
    for part in pattern.parts:
        for name in _OF_SHELF.get(part, ()):
            relations[name] = _still_there(pattern, name)
    label = f"By the pattern {pattern.name}"[:120]
    done = change(job, spec, label, "", relations)
    Job.objects.filter(pk=job.pk).update(pattern=pattern, pattern_version=pattern.version)
    return done


def _still_there(pattern: Pattern, name: str) -> int | None:
    """Return what a pattern took from the shelf, None where that is gone by now."""
    kind = Job._meta.get_field(name).related_model  # noqa: SLF001 (Django's own way)
    found = kind.objects.filter(pk=pattern.relations.get(name))  # type: ignore[union-attr]
    return pattern.relations.get(name) if found.exists() else None


def laid_over(pattern: Pattern, spec: JobSpec) -> JobSpec:
    """Return a job with the parts that a pattern holds."""
    kept = JobSpec.model_validate(pattern.spec)
    names = [name for part in pattern.parts for name in PARTS[part]]
    laid = spec.model_copy(update={name: getattr(kept, name) for name in names})
    if (way := way_for(laid, laid.machine.kind)) != laid.marking.way:
        laid = in_way(laid, way)
    return laid


def offered(job: Job) -> Pattern | None:
    """Return the pattern of an open ticket that was changed since the ticket took it."""
    pattern = job.pattern
    if pattern is None or job.burned_at or pattern.version <= job.pattern_version:
        return None
    return pattern
