"""A photograph of what was burned, a card or a piece, as the stand-in camera takes it."""

import io

from PIL import Image, ImageOps

from engraving.jobspec import JobSpec
from engraving.place import frame_of, reach_box
from workshop.bench.models import Run
from workshop.bench.runs.start import CannotBurnError
from workshop.bench.where import witness_of
from workshop.jobs.models import Job


def photograph(job: Job, run: Run | None = None) -> bytes:
    """Return a picture of what the stand-in burned of a job, as its camera takes it.

    The stand-in is told what the material looks like; how it answers the beam
    is its own secret. What is looked at from its other side is turned over first.

    Parameters
    ----------
    job : Job
    run : Run, optional
        Which of its burns; without, the newest.

    Raises
    ------
    CannotBurnError
        When nothing was burned yet, or the stand-in is not there.
    """
    run = run or Run.objects.filter(job=job, state="done").order_by("-pk").first()
    if run is None:
        raise CannotBurnError(
            "Nothing was burned of this job yet; burn it on the stand-in."
        )
    newest = Run.objects.filter(state="done", address=run.address).order_by("-pk").first()
    if newest is None or newest.pk != run.pk:
        raise CannotBurnError(
            "Another piece lies on the stand-in's bed by now; burn this one again."
        )
    witness = witness_of(run.address)
    if witness is None:
        raise CannotBurnError("This machine has no stand-in camera; upload a photo.")
    spec = JobSpec.model_validate(run.spec)
    try:
        data = witness.picture("photo", _question(spec))
    except OSError as error:
        raise CannotBurnError(f"The stand-in camera does not answer ({error}).") from None
    return _turned_over(data) if spec.mirrored else data


def _question(spec: JobSpec) -> dict[str, object]:
    frame, machine = frame_of(spec.machine), spec.machine
    box = reach_box(spec.size, spec.place)
    corner = frame.to_machine(box.left, box.front)
    return {
        "left": frame.sign_x * corner[0],
        "front": frame.sign_y * corner[1],
        "width": box.right - box.left,
        "height": box.back - box.front,
        "runs": [frame.sign_x, frame.sign_y],
        "ground": spec.substrate.ground,
        "mark": spec.substrate.mark,
        "power_w": machine.rated_power_w,
        "spot_mm": machine.spot_mm,
        "material": spec.substrate.name,
    }


def _turned_over(data: bytes) -> bytes:
    stream = io.BytesIO()
    ImageOps.mirror(Image.open(io.BytesIO(data))).save(stream, "PNG", compress_level=1)
    return stream.getvalue()
