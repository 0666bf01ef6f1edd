"""How a machine's own burns correct what is planned for it."""

from engraving.history import Correction
from workshop.shelf.models import Machine


def correction_of(machine: Machine | None) -> Correction:
    """Return a machine's correction; one that corrects nothing where it has none."""
    known = machine.timing if machine else {}
    return Correction(**known) if known else Correction()


def keep_correction(machine: Machine, found: Correction) -> None:
    """Keep what burns taught."""
    machine.timing = {
        "factor": round(found.factor, 5),
        "row_s": round(found.row_s, 5),
        "spread": round(found.spread, 4),
        "burns": found.burns,
    }
    machine.save(update_fields=["timing"])
