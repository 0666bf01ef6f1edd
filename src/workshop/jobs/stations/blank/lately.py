"""Blanks that are near at hand: what a new ticket starts on, and those used lately."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import islice

from engraving.jobspec import ROUND, BlankPart
from workshop.jobs.models import Job
from workshop.shelf.blanks.facts import BlankDrawing, drawn_blank, ground_of
from workshop.shelf.models import Blank, Machine

_OFFERED = 6
_LOOKED_THROUGH = 60


@dataclass(frozen=True)
class NearBlank:
    """A blank to press, as it is drawn."""

    pk: int
    name: str
    drawn: BlankDrawing
    chosen: bool


def first_blank(ratio: float, machine: Machine | None, last: Job | None) -> Blank | None:
    """Return the blank a new picture starts on: flat, and on this machine's bed.

    The last ticket's, where that is one; else that whose sides suit the picture's
    best, of those used lately before all others. None leaves the bed bare.

    Parameters
    ----------
    ratio : float
        The picture's width over its height.
    """
    flat = [one for one in Blank.objects.select_related("substrate") if _flat(one, machine)]
    if last is not None and last.blank in flat:
        return last.blank
    lately = [one for one in _lately() if one in flat]
    return min(lately or flat, key=lambda one: _unlike(one, ratio), default=None)


def _flat(blank: Blank, machine: Machine | None) -> bool:
    part = blank.part
    if part.get("shape") in ROUND:
        return False
    bed = machine.part if machine is not None else {}
    wide, deep = bed.get("bed_width_mm", math.inf), bed.get("bed_height_mm", math.inf)
    return part["width_mm"] <= wide and part["height_mm"] <= deep


def _unlike(blank: Blank, ratio: float) -> float:
    return abs(math.log(blank.part["width_mm"] / blank.part["height_mm"] / ratio))


def _lately() -> Iterable[Blank]:
    """Return the blanks of the newest tickets, each once."""
    newest = Job.objects.exclude(blank=None).order_by("-number")
    jobs = newest.select_related("blank__substrate")[:_LOOKED_THROUGH]
    return {job.blank_id: job.blank for job in jobs if job.blank}.values()


def near_blanks(job: Job) -> list[NearBlank]:
    """Return the blanks used lately, then others: as many as a hand finds its way in."""
    others = Blank.objects.select_related("substrate")[:_LOOKED_THROUGH]
    found = {one.pk: one for one in (*_lately(), *others)}
    return [
        NearBlank(
            one.pk,
            one.name,
            drawn_blank(BlankPart.model_validate(one.part), ground_of(one.substrate)),
            one.pk == job.blank_id,
        )
        for one in islice(found.values(), _OFFERED)
    ]
