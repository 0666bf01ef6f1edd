"""A machine learns from each of its burns how long it truly takes."""

from engraving.history import MOST, Burned, fitted
from workshop.bench.models import Run
from workshop.shelf.machines.timing import keep_correction


def learn_from(run: Run) -> None:
    """Fit the machine's correction anew, this burn among the others.

    What was held, trimmed, or gone on with says nothing of how fast the machine is.
    """
    if run.machine is None:
        return
    plain = Run.objects.filter(
        machine=run.machine, state="done", holds=0, trims=[], first_row=0
    ).order_by("-pk")[:MOST]
    keep_correction(
        run.machine, fitted([Burned(one.planned_s, one.clock_s, one.rows) for one in plain])
    )
