"""The same piece on every substrate of the shelf, in each of its colours."""

from dataclasses import dataclass

from engraving.errors import InputError
from engraving.jobspec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import checked, spec_of
from workshop.jobs.stations.blank.changes import choose_substrate, paint
from workshop.jobs.stations.edit import Edit
from workshop.shelf.models import Blank, Substrate


@dataclass(frozen=True, slots=True)
class Material:
    """A substrate in one of its colours, as the job could have it."""

    choice: str
    """What stands for it in a form: keys of substrate and blank, and the colour."""
    label: str
    recipe: str
    chosen: bool


def materials(job: Job) -> list[Material]:
    """Return what the shelf has to burn the job on, its own first."""
    spec = spec_of(job)
    found = []
    for choice, substrate, colour in _choices():
        here = job.substrate_id == substrate.pk and spec.substrate.colour == colour
        edit = _edit(job, choice)
        label = f"{substrate.name}, {colour.lower()}" if colour else substrate.name
        found.append(Material(choice, label, edit.spec.burn.recipe, here))
    return sorted(found, key=lambda one: not one.chosen)


def on_material(job: Job, choice: str) -> JobSpec:
    """Return the job on another material, with the first recipe its machine has for it.

    Raises
    ------
    InputError
        When there is no such material, or the job cannot be on it.
    """
    edit = Edit(spec_of(job), {}, job)
    take_material(edit, choice)
    return checked(edit.spec)


def take_material(edit: Edit, choice: str) -> None:
    """Put the job on another material, with the first recipe its machine has for it.

    Raises
    ------
    InputError
        When there is no such material.
    """
    for known, substrate, _ in _choices():  # noqa: B007 (the one that was found)
        if known == choice:
            break
    else:
        raise InputError("This material is not on the shelf any more.")
    choose_substrate(edit, substrate)
    _, blank, name = choice.split(":", 2)
    if name:
        colours = Blank.objects.get(pk=blank).colours
        paint(edit, next(one for one in colours if one["name"] == name))


def _edit(job: Job, choice: str) -> Edit:
    edit = Edit(spec_of(job), {}, job)
    take_material(edit, choice)
    return edit


def _choices() -> list[tuple[str, Substrate, str]]:
    """Return every substrate, in each colour that one of its blanks comes in."""
    found = []
    for substrate in Substrate.objects.prefetch_related("blanks"):
        colours: dict[str, str] = {}
        for blank in substrate.blanks.all():
            for one in blank.colours:
                colours.setdefault(one["name"], f"{substrate.pk}:{blank.pk}:{one['name']}")
        if not colours:
            colours = {"": f"{substrate.pk}::"}
        found += [(choice, substrate, name) for name, choice in colours.items()]
    return found
