"""Tickets: opened, copied, visited, signed; and what a recipe makes of one."""

from typing import Any

from django.db import transaction

from engraving.errors import EngravingError
from engraving.place import burned_box, centred, engravable_box, mounted
from engraving.spec import (
    ArtworkPart,
    DotsPart,
    JobSpec,
    RecipePart,
    ReproductionPart,
    SidePart,
    SizePart,
    SubstratePart,
)
from workshop.jobs.models import STATIONS, Artwork, Job
from workshop.jobs.services.revisions import begin, change, relations_of, spec_of, updated
from workshop.shelf.models import Blank, Machine, Recipe, Substrate
from workshop.shelf.services import recipe_dose, recipe_part

_OF_ONE_STATE = ("check", "run")
"""Stations whose tick speaks of one state of a job, and so of no copy of it."""

_OF_RECIPE = (
    "speed_mm_s", "power", "passes", "both_ways", "cross", "air", "focus_mm", "pulse_khz",
    "pulse_ns",
)  # fmt: skip
"""What a job's burn takes from a recipe as it stands."""

Error = EngravingError


def open_job(artwork: Artwork, name: str = "", customer: str = "") -> Job:
    """Open a ticket for a picture, on the machine and material used last."""
    last = Job.objects.order_by("-number").with_all().first()
    machine = (last and last.machine) or Machine.objects.first()
    blank = (last and last.blank) or Blank.objects.first()
    of_blank = blank.substrate if blank else None
    substrate = (last and last.substrate) or of_blank or Substrate.objects.first()
    title = name or artwork.name.rsplit(".", 1)[0].replace("_", " ").replace("-", " ")
    with transaction.atomic():
        job = Job.objects.create(
            number=Job.objects.next_number(),
            name=title.strip()[:200] or "Untitled",
            customer=customer,
            artwork=artwork,
        )
        spec = _first_spec(job, artwork)
        changes = _with_shelf(spec, machine, substrate, blank)
        spec = _fit_blank(spec.model_copy(update=changes))
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


def side_of(spec: JobSpec, substrate: SubstratePart) -> SidePart:
    """Return the side a substrate is worked from; what was overruled was of another."""
    plate = spec.side.printing_plate
    return SidePart(seen_from=substrate.worked_from, printing_plate=plate)


def _fit_blank(spec: JobSpec) -> JobSpec:
    """Make the picture as large as the blank allows, in the middle of the bed."""
    x, y, wide, high = engravable_box(spec.blank)
    width = min(wide, high * spec.artwork.ratio)
    size = SizePart(
        width_mm=width,
        height_mm=width / spec.artwork.ratio,
        pitch_mm=spec.size.pitch_mm,
        fit="inside",
        offset_x_mm=x,
        offset_y_mm=y,
    )
    return centre_on_bed(spec.model_copy(update={"size": size}))


def centre_on_bed(spec: JobSpec) -> JobSpec:
    """Return the job with its piece, or all its pieces, in the middle of the bed."""
    x, y = centred(spec.size, spec.machine)
    if spec.mount.rotary:
        x = (spec.machine.bed_width_mm - mounted(spec).size.width_mm) / 2
        y = 0.0
    elif spec.fixture is not None:
        box = burned_box(spec)
        x = spec.place.x_mm + (spec.machine.bed_width_mm - box.left - box.right) / 2
        y = spec.place.y_mm + (spec.machine.bed_height_mm - box.front - box.back) / 2
    place = spec.place.model_copy(update={"x_mm": x, "y_mm": y})
    return spec.model_copy(update={"place": place})


def with_recipe(spec: JobSpec, recipe: Recipe) -> JobSpec:
    """Return the job as a recipe burns, version and all, with its tone preset if any."""
    part = recipe_part(recipe)
    machine = spec.machine
    if part.lens:
        machine = updated(spec, {"machine": {"lens": part.lens}}).machine
    burn = {name: getattr(part, name) for name in _OF_RECIPE}
    changes: dict[str, dict[str, Any]] = {
        "machine": machine.model_dump(mode="json"),
        "burn": {
            **burn,
            "recipe": recipe.name,
            "begun_with": "",
            "recipe_version": recipe.version,
            "recipe_dose": recipe_dose(recipe),
            "rows": part.rows,
        },
    }
    if not spec.keeps_dots:
        # Dots that are kept lie as far apart as they do.
        changes["size"] = {"pitch_mm": part.pitch_mm, "dot_pitch_mm": None}
        changes["dots"] = {"method": part.method}
        if part.kind == "tone":
            floor = 100 * part.lowest_power / part.power if part.power else 0.0
            changes["dots"] = {
                "method": "power",
                "floor": round(floor, 2),
                "ceiling": 100.0,
            }
    if part.patches:
        changes["reproduction"] = {"mode": "measured", "patches": part.patches}
    elif spec.reproduction.mode == "measured":
        changes["reproduction"] = {"mode": "spot", "patches": ()}
    if part.tone is not None:
        changes["tone"] = part.tone.model_dump(mode="json")
    return updated(spec, changes)


def without_recipe(spec: JobSpec) -> JobSpec:
    """Return the job with its settings as they are, and nothing that vouches for them."""
    none = {"recipe": "", "recipe_version": 0, "recipe_dose": 0, "begun_with": ""}
    changes: dict[str, dict[str, Any]] = {"burn": none}
    if spec.reproduction.mode == "measured":
        changes["reproduction"] = {"mode": "spot", "patches": ()}
    return updated(spec, changes)


def with_start(spec: JobSpec, part: RecipePart, source: str) -> JobSpec:
    """Return the job with settings to begin with, where no recipe is known.

    Parameters
    ----------
    part : RecipePart
        The settings.
    source : str
        What they were taken from; the job says so until a recipe vouches for it.
    """
    burn = {name: getattr(part, name) for name in _OF_RECIPE}
    changes: dict[str, dict[str, Any]] = {"burn": {**burn, "begun_with": source[:200]}}
    if not spec.keeps_dots:
        changes["size"] = {"pitch_mm": part.pitch_mm, "dot_pitch_mm": None}
    return updated(without_recipe(spec), changes)


def visit(job: Job, station: str) -> None:
    """Open a station; the one left behind counts as done."""
    if station not in STATIONS:
        return
    visited = list(job.visited)
    if job.station not in visited and job.station != station:
        visited.append(job.station)
    if (visited, station) != (job.visited, job.station):
        job.visited, job.station = visited, station
        job.save(update_fields=["visited", "station"])


def rename(job: Job, name: str, customer: str) -> None:
    """Give a job another name or customer."""
    job.customer = customer[:200]
    job.save(update_fields=["customer"])
    if name.strip():
        change(job, updated(spec_of(job), {"name": name}), "Name", "name")


def remove(job: Job) -> None:
    """Take a ticket off the rack for good; the artwork stays in the store."""
    job.delete()


def copy(job: Job) -> Job:
    """Open a new ticket with the same settings."""
    with transaction.atomic():
        twin = Job.objects.create(
            number=Job.objects.next_number(),
            name=job.name,
            customer=job.customer,
            artwork=job.artwork,
            visited=[one for one in job.visited if one not in _OF_ONE_STATE],
        )
        twin.sheets.set(job.sheets.all())
        begin(twin, spec_of(job), f"Copied from {job.number:04d}", relations_of(job))
    return twin


def sign_off(job: Job, name: str) -> None:
    """Sign the cautions of a job's present state."""
    job.signed_by, job.signed_state = name[:40], job.state
    job.save(update_fields=["signed_by", "signed_state"])


def is_signed(job: Job) -> bool:
    """Whether the cautions of the job's present state were signed off."""
    return bool(job.state) and job.signed_state == job.state


def note_check(job: Job) -> None:
    """Note that a job was checked as it stands now."""
    if job.checked_state != job.state:
        job.checked_state = job.state
        job.save(update_fields=["checked_state"])
