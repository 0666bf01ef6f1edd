"""The stand-in camera over the bed."""

from typing import Any

from engraving.jobspec import JobSpec, MachinePart
from engraving.place import frame_of
from workshop.bench.models import Run
from workshop.bench.runs.start import CannotBurnError
from workshop.bench.where import address_of, witness_of
from workshop.jobs.models import Job
from workshop.jobs.revisions.writer import spec_of

_LAID = 3


def photograph_bed(job: Job, what: str) -> bytes:
    """Return a picture of the bed of a job's machine, as the stand-in camera takes it.

    Of the ``marks``, it shows a card that covers the bed and what was burned
    last; of the ``bed``, some of the job's blanks, laid by a careless hand.

    Raises
    ------
    CannotBurnError
        When the machine is a real one, or the stand-in is not there.
    """
    address = address_of(job.machine)
    witness = witness_of(address)
    if job.machine is None or witness is None:
        raise CannotBurnError("This machine has a camera of its own; upload its photo.")
    last = Run.objects.filter(state="done", address=address).order_by("-pk").first()
    burned = JobSpec.model_validate(last.spec) if last else spec_of(job)
    question = _bed(MachinePart.model_validate(job.machine.part))
    question["camera"] = job.machine.name
    question |= _card(burned) if what == "marks" else _blanks(spec_of(job), job.number)
    try:
        return witness.picture("bed", question)
    except OSError as error:
        raise CannotBurnError(f"The stand-in camera does not answer ({error}).") from None


def _bed(machine: MachinePart) -> dict[str, Any]:
    frame = frame_of(machine)
    corner = frame.to_machine(0.0, 0.0)
    return {
        "left": frame.sign_x * corner[0],
        "front": frame.sign_y * corner[1],
        "width": machine.bed_width_mm,
        "height": machine.bed_height_mm,
        "runs": [frame.sign_x, frame.sign_y],
    }


def _card(spec: JobSpec) -> dict[str, Any]:
    return {
        "ground": spec.substrate.ground,
        "mark": spec.substrate.mark,
        "power_w": spec.machine.rated_power_w,
        "spot_mm": spec.machine.spot_mm,
        "material": spec.substrate.name,
    }


def _blanks(spec: JobSpec, number: int) -> dict[str, Any]:
    blank = spec.blank
    one = {
        "shape": blank.shape, "width": blank.width_mm, "height": blank.height_mm,
        "ground": spec.substrate.ground,
    }  # fmt: skip
    count = spec.fixture.count if spec.fixture else _LAID
    return {"blanks": [one] * count, "laid": number}
