"""Tickets from opening to removal: visited, renamed, copied, signed."""

from contextlib import suppress
from typing import Any

from django.db import OperationalError, transaction

from engraving.jobspec import (
    ArtworkPart,
    DotsPart,
    JobSpec,
    ReproductionPart,
)
from workshop.jobs.models import STATIONS, Artwork, Job
from workshop.jobs.revisions.writer import begin, change, relations_of, spec_of
from workshop.jobs.stations.blank.lately import first_blank
from workshop.jobs.stations.dots.ways import in_way, way_for
from workshop.jobs.stations.shelf_items import fitted_to_blank, side_of, with_recipe
from workshop.shelf.models import Blank, Machine, Recipe, Substrate

OF_ONE_STATE = ("check", "run")
"""Stations whose tick speaks of one state of a job, and so of no copy of it."""


def open_job(artwork: Artwork, name: str = "", customer: str = "") -> Job:
    """Open a ticket for a picture, on the machine used last and a flat blank."""
    last = Job.objects.order_by("-number").with_all().first()
    machine = (last and last.machine) or _first_machine()
    blank = first_blank(artwork.width_px / artwork.height_px, machine, last)
    of_blank = blank.substrate if blank else None
    of_last = last.substrate if last and last.blank == blank else None
    substrate = of_last or of_blank or Substrate.objects.first()
    with transaction.atomic():
        job = Job.objects.create(
            number=Job.objects.next_number(),
            name=name.strip()[:200] or title_of(artwork),
            customer=customer,
            artwork=artwork,
        )
        spec = _first_spec(job, artwork)
        changes = _with_shelf(spec, machine, substrate, blank)
        spec = fitted_to_blank(spec.model_copy(update=changes))
        if (way := way_for(spec, spec.machine.kind)) != spec.marking.way:
            spec = in_way(spec, way)
        relations: dict[str, int | None] = {
            "artwork": artwork.pk,
            "machine": machine.pk if machine else None,
            "substrate": substrate.pk if substrate else None,
            "blank": blank.pk if blank else None,
            "recipe": None,
        }
        recipe = Recipe.objects.fitting(
            relations["machine"], relations["substrate"]
        ).first()
        if recipe:
            spec = with_recipe(spec, recipe)
            relations["recipe"] = recipe.pk
        begin(job, spec, "Opened", relations)
    return job


def title_of(artwork: Artwork) -> str:
    """Return what a ticket is called whose picture has this file's name."""
    plain = artwork.name.rsplit(".", 1)[0].replace("_", " ").replace("-", " ")
    return plain.strip()[:200] or "Untitled"


def _first_machine() -> Machine | None:
    """Return the first machine with a beam, or any: most pictures are burned."""
    tools = ("drag", "vtool")
    beams = Machine.objects.exclude(part__kind__in=tools)
    return beams.first() or Machine.objects.first()


def open_described(
    artwork: Artwork, spec: JobSpec, relations: dict[str, int | None]
) -> Job:
    """Open a ticket for a job that is described already, up to its burn."""
    with transaction.atomic():
        job = open_job(artwork, spec.name)
        whole = {"artwork": artwork.pk, "blank": None, **relations}
        change(job, spec, "Described", "", whole)
        job.visited = ["blank", "tone", "dots", "burn"]
        job.save(update_fields=["visited"])
    return job


def _first_spec(job: Job, artwork: Artwork) -> JobSpec:
    part = ArtworkPart(
        file=artwork.name,
        sha256=artwork.sha256,
        width_px=artwork.width_px,
        height_px=artwork.height_px,
    )
    tones = ReproductionPart(mode="spot")
    dots = DotsPart(run_in=True)
    return JobSpec(name=job.name, artwork=part, reproduction=tones, dots=dots)


def _with_shelf(
    spec: JobSpec,
    machine: Machine | None,
    substrate: Substrate | None,
    blank: Blank | None,
) -> dict[str, Any]:
    chosen = {"machine": machine, "substrate": substrate, "blank": blank}
    parts: dict[str, Any] = {
        name: type(getattr(spec, name)).model_validate(item.part)
        for name, item in chosen.items()
        if item is not None
    }
    if substrate:
        parts["side"] = side_of(spec, parts["substrate"])
    return parts


def visit(job: Job, station: str) -> None:
    """Open a station; the one left behind counts as done."""
    if station not in STATIONS:
        return
    visited = list(job.visited)
    if job.station not in visited and job.station != station:
        visited.append(job.station)
    if (visited, station) != (job.visited, job.station):
        job.visited, job.station = visited, station
        # Looking needs no writing: with a full disk or a busy base the page still opens.
        with suppress(OperationalError, OSError):
            job.save(update_fields=["visited", "station"])


def copy(job: Job) -> Job:
    """Open a new ticket with the same settings."""
    with transaction.atomic():
        twin = Job.objects.create(
            number=Job.objects.next_number(),
            name=job.name,
            customer=job.customer,
            artwork=job.artwork,
            visited=[one for one in job.visited if one not in OF_ONE_STATE],
        )
        twin.sheets.set(job.sheets.all())
        begin(twin, spec_of(job), f"Copied from {job.number:04d}", relations_of(job))
    return twin


def note_check(job: Job) -> None:
    """Note that a job was checked as it stands now."""
    if job.checked_state != job.state:
        job.checked_state = job.state
        job.save(update_fields=["checked_state"])
