"""The same piece on every substrate of the shelf, in each of its colours."""

from collections.abc import Iterator
from dataclasses import dataclass

from engraving.errors import EngravingError, InputError
from engraving.jobspec import JobSpec
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import checked, spec_of
from workshop.jobs.stations.blank.changes import choose_substrate, paint
from workshop.jobs.stations.edit import Edit
from workshop.shelf.models import Substrate


@dataclass(frozen=True, slots=True)
class Choice:
    """A substrate in one of the colours that its blanks come in."""

    key: str
    """What stands for it in a form: keys of substrate and blank, and the colour."""
    substrate: Substrate
    colour: dict[str, str] | None


@dataclass(frozen=True, slots=True)
class Material:
    """A material, and the job on it."""

    choice: str
    label: str
    recipe: str
    chosen: bool
    spec: JobSpec | None
    """None where the job cannot be on it; ``fault`` says why."""
    fault: str


def materials(job: Job) -> list[Material]:
    """Return what the shelf has to burn the job on, its own first."""
    found = [_material(job, one) for one in _choices()]
    return sorted(found, key=lambda one: not one.chosen)


def _material(job: Job, choice: Choice) -> Material:
    substrate, colour = choice.substrate, choice.colour["name"] if choice.colour else ""
    own = spec_of(job).substrate.colour
    chosen = job.substrate_id == substrate.pk and own == colour
    label = f"{substrate.name}, {colour.lower()}" if colour else substrate.name
    edit = Edit(spec_of(job), {}, job)
    _put_on(edit, choice)
    try:
        spec, fault = checked(edit.spec), ""
    except EngravingError as error:
        spec, fault = None, error.message
    return Material(choice.key, label, edit.spec.burn.recipe, chosen, spec, fault)


def on_material(job: Job, key: str) -> JobSpec:
    """Return the job on another material, with the first recipe its machine has for it.

    Raises
    ------
    InputError
        When there is no such material, or the job cannot be on it.
    """
    edit = Edit(spec_of(job), {}, job)
    take_material(edit, key)
    return checked(edit.spec)


def take_material(edit: Edit, key: str) -> None:
    """Put the job on another material, with the first recipe its machine has for it.

    Raises
    ------
    InputError
        When there is no such material.
    """
    choice = next((one for one in _choices() if one.key == key), None)
    if choice is None:
        raise InputError("This material is not on the shelf any more.")
    _put_on(edit, choice)


def _put_on(edit: Edit, choice: Choice) -> None:
    choose_substrate(edit, choice.substrate)
    if choice.colour:
        paint(edit, choice.colour)


def _choices() -> Iterator[Choice]:
    """Yield every substrate, in each colour that one of its blanks comes in."""
    for substrate in Substrate.objects.prefetch_related("blanks"):
        seen = set()
        for blank in substrate.blanks.all():
            for colour in blank.colours:
                if colour["name"] not in seen:
                    seen.add(colour["name"])
                    key = f"{substrate.pk}:{blank.pk}:{colour['name']}"
                    yield Choice(key, substrate, colour)
        if not seen:
            yield Choice(f"{substrate.pk}::", substrate, None)
