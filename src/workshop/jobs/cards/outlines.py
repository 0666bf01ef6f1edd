"""A ticket that scores on card where the blanks are to lie."""

from engraving.errors import InputError
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import change, rename, spec_of, updated
from workshop.jobs.ticket.lifecycle import copy


def outlines_on_card(job: Job) -> Job:
    """Open a job that scores the blanks' outlines where they are to lie.

    Burned on a card, it shows where each blank belongs; power and speed are
    this job's own and want a look.
    """
    spec = spec_of(job)
    if spec.mount.rotary:
        raise InputError(
            "A rotary turns the piece; blanks are found and laid out on a flat bed."
        )
    burn = spec.burn
    raster = spec.operations[[one.kind for one in spec.operations].index("raster")]
    score = {
        "kind": "score", "shape": "blank", "offset_mm": 0.0, "name": "Where the blanks lie",
        "speed_mm_s": min(burn.speed_mm_s, 50.0), "power": burn.power,
    }  # fmt: skip
    twin = copy(job)
    first = raster.model_copy(update={"on": False}).model_dump(mode="json")
    change(twin, updated(spec, {"operations": [first, score]}), "Outlines on card")
    rename(twin, f"Where they lie: {spec.name}"[:200], customer=job.customer)
    return twin
