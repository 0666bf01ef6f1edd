"""Open, change, undo and redo jobs."""

from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from django.db import transaction
from django.db.models import Model
from django.utils import timezone
from pydantic import ValidationError

from engraving.errors import EngravingError, InputError
from engraving.place import burned_box, centred, engravable_box, mounted, shown_piece
from engraving.spec import (
    ArtworkPart,
    DotsPart,
    JobSpec,
    RecipePart,
    ReproductionPart,
    SidePart,
    SizePart,
    SubstratePart,
    sentence,
)
from workshop.jobs.models import STATIONS, Artwork, Job, Revision, state_digest
from workshop.shelf.models import Blank, Machine, Recipe, Substrate
from workshop.shelf.services import recipe_dose, recipe_part

_ONE_STROKE = timedelta(seconds=2)
_OF_ONE_STATE = ("check", "run")
"""Stations whose tick speaks of one state of a job, and so of no copy of it."""
_RELATIONS: dict[str, type[Model]] = {
    "artwork": Artwork,
    "machine": Machine,
    "substrate": Substrate,
    "blank": Blank,
    "recipe": Recipe,
}

_OF_RECIPE = (
    "speed_mm_s", "power", "passes", "both_ways", "cross", "air", "focus_mm", "pulse_khz",
    "pulse_ns",
)  # fmt: skip
"""What a job's burn takes from a recipe as it stands."""

Error = EngravingError


def spec_of(job: Job) -> JobSpec:
    """Return a job's description."""
    return JobSpec.model_validate(job.spec_data)


def shown_spec(job: Job) -> JobSpec:
    """Return the description of the piece that is looked at: one pocket's, in a fixture."""
    return shown_piece(spec_of(job))


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
        _append(job, spec, "Opened", "", relations)
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


def updated(spec: JobSpec, changes: Mapping[str, Any]) -> JobSpec:
    """Return a spec with some values of some parts changed, checked anew.

    Raises
    ------
    InputError
        When the result is no valid job; ``field`` names the value at fault.
    """
    data = spec.model_dump(mode="json")
    for part, values in changes.items():
        if isinstance(values, dict) and isinstance(data[part], dict):
            data[part].update(values)
        else:
            data[part] = values
    try:
        return JobSpec.model_validate(data)
    except ValidationError as error:
        steps = error.errors()[0]["loc"]
        field = str(steps[1]) if len(steps) > 1 else ""
        raise InputError(sentence(error), field=field) from None


def change(
    job: Job,
    spec: JobSpec,
    label: str,
    touched: str = "",
    relations: dict[str, int | None] | None = None,
) -> bool:
    """Make a revision of a job; return whether anything changed.

    Changes of the same field in quick succession are one revision, so that
    dragging a slider can be undone in one step.
    """
    same = spec == spec_of(job)
    merged = {**relations_of(job), **(relations or {})}
    if same and merged == relations_of(job):
        return False
    with transaction.atomic():
        _append(job, spec, label, touched, merged)
    return True


def relations_of(job: Job) -> dict[str, int | None]:
    """Return the shelf items and the artwork a job stands on, by name."""
    return {name: getattr(job, f"{name}_id") for name in _RELATIONS}


def _append(
    job: Job,
    spec: JobSpec,
    label: str,
    touched: str,
    relations: dict[str, int | None],
) -> None:
    head = job.head
    data = spec.model_dump(mode="json")
    digest = state_digest(data, relations)
    if head and touched and _continues(head, touched, job):
        head.spec, head.relations, head.digest = data, relations, digest
        head.save(update_fields=["spec", "relations", "digest", "changed"])
    else:
        number = head.number + 1 if head else 1
        job.revisions.filter(number__gte=number).delete()
        head = Revision.objects.create(
            job=job,
            number=number,
            spec=data,
            label=label[:120],
            touched=touched[:120],
            relations=relations,
            digest=digest,
        )
    _point_at(job, head)


def _continues(head: Revision, touched: str, job: Job) -> bool:
    fresh = timezone.now() - head.changed < _ONE_STROKE
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


def undo(job: Job) -> str:
    """Step back one revision; return what was undone, empty when there is nothing."""
    before = job.revisions.filter(number__lt=job.head.number).last() if job.head else None
    if not before or not job.head:
        return ""
    label = job.head.label
    _point_at(job, before)
    return label


def redo(job: Job) -> str:
    """Step forward one revision; return what was redone, empty when there is nothing."""
    after = job.revisions.filter(number__gt=job.head.number).first() if job.head else None
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
        _append(twin, spec_of(job), f"Copied from {job.number:04d}", "", relations_of(job))
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
