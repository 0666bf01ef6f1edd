"""Opening a swatch card as a ticket."""

from django.db import transaction
from django.utils import timezone

from engraving.cards import KINDS, card_job, starting_card
from engraving.errors import InputError
from engraving.jobspec import JobSpec, MachinePart, PlacePart, SubstratePart
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.card.changes import relaid
from workshop.jobs.stations.shelf_items import centre_on_bed, with_recipe
from workshop.jobs.ticket.lifecycle import open_described
from workshop.shelf.models import Machine, Recipe, Substrate
from workshop.shelf.recipes.changes import recipe_part
from workshop.shelf.substrates.changes import save_substrate

_FINE_MM = 0.1
"""Rows on which the lines of a tool are drawn."""


@transaction.atomic
def open_card(
    kind: str, machine: Machine, substrate: Substrate, recipe: Recipe | None = None
) -> Job:
    """Open a ticket for a swatch card.

    With a recipe, what is not on the card's sides is its, and the ranges lie
    round it. A substrate that is not on the shelf yet is put there, as an empty
    form has it.

    Raises
    ------
    InputError
        When the card is none for such a machine, or makes no job.
    """
    part = MachinePart.model_validate(machine.part)
    if part.touches and not KINDS[kind].touches:
        raise InputError(f"{machine} marks without a beam; this card needs one.")
    if KINDS[kind].touches and not part.touches:
        raise InputError(f"{machine} has a beam; this card is cut by a tool that touches.")
    if substrate.pk is None:
        substrate = save_substrate({"name": substrate.name})
    found = recipe or Recipe.objects.fitting(machine.pk, substrate.pk).first()
    spec = JobSpec(
        name=f"{KINDS[kind].label}, {substrate}"[:200],
        machine=part,
        substrate=SubstratePart.model_validate(substrate.part),
        place=PlacePart(x_mm=0, y_mm=0),
    )
    pitch = _FINE_MM if part.touches else part.spot_mm
    spec = updated(spec, {"size": {"pitch_mm": pitch}})
    if found:
        spec = with_recipe(spec, found)
    card = starting_card(kind, spec.machine, recipe_part(found) if found else None)
    day = timezone.localdate().isoformat()
    spec = spec.model_copy(update={"card": card.model_copy(update={"day": day})})
    spec, artwork = relaid(centre_on_bed(card_job(spec)))
    relations = {"machine": machine.pk, "substrate": substrate.pk,
                 "recipe": found.pk if found else None}  # fmt: skip
    return open_described(artwork, spec, relations)


def last_used() -> dict[str, int | None]:
    """Return machine and substrate of the newest ticket, to begin with."""
    last = Job.objects.order_by("-number").first()
    return {"machine": last.machine_id, "substrate": last.substrate_id} if last else {}
