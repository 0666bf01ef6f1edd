"""A photograph of a card that was burned, as the stand-in camera takes it."""

from engraving.jobspec import JobSpec
from engraving.place import frame_of
from workshop.bench.models import Run
from workshop.bench.runs.start import CannotBurnError
from workshop.bench.where import witness_of
from workshop.jobs.models import Job


def photograph(job: Job) -> bytes:
    """Return a picture of what the stand-in burned of a job, as its camera takes it.

    The stand-in is told what the material looks like; how it answers the beam
    is its own secret.

    Raises
    ------
    CannotBurnError
        When nothing was burned yet, or the stand-in is not there.
    """
    run = Run.objects.filter(job=job, state="done").order_by("-pk").first()
    if run is None:
        raise CannotBurnError(
            "Nothing was burned of this job yet; burn it on the stand-in."
        )
    newest = Run.objects.filter(state="done", address=run.address).order_by("-pk").first()
    witness = witness_of(run.address)
    if witness is None or newest is None or newest.pk != run.pk:
        raise CannotBurnError(
            "Another piece lies on the stand-in's bed by now; burn this one again."
        )
    spec = JobSpec.model_validate(run.spec)
    frame, machine = frame_of(spec.machine), spec.machine
    corner = frame.to_machine(spec.place.x_mm, spec.place.y_mm)
    question = {
        "left": frame.sign_x * corner[0],
        "front": frame.sign_y * corner[1],
        "width": spec.size.width_mm,
        "height": spec.size.height_mm,
        "runs": [frame.sign_x, frame.sign_y],
        "ground": spec.substrate.ground,
        "mark": spec.substrate.mark,
        "power_w": machine.rated_power_w,
        "spot_mm": machine.spot_mm,
        "material": spec.substrate.name,
    }
    try:
        return witness.picture("photo", question)
    except OSError as error:
        raise CannotBurnError(f"The stand-in camera does not answer ({error}).") from None
