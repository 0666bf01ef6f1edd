"""The marks that a bed camera is calibrated by, as a ticket."""

import io

from PIL import Image

from engraving.camera import (
    bed_marks,
    marks_picture,
)
from engraving.errors import InputError
from engraving.jobspec import (
    ArtworkPart,
    BlankPart,
    JobSpec,
    MachinePart,
    PlacePart,
    SubstratePart,
)
from engraving.units import png_density
from workshop.jobs.camera.bed_camera import machine_of
from workshop.jobs.models import Job
from workshop.jobs.pictures.intake import keep_artwork
from workshop.jobs.revisions.writer import updated
from workshop.jobs.stations.shelf_items import with_recipe
from workshop.jobs.ticket.lifecycle import open_described
from workshop.shelf.models import Recipe

_WIDEST_PITCH_MM = 0.2


def open_marks(job: Job) -> Job:
    """Open a ticket for the marks card of a job's machine, in the job's material.

    Raises
    ------
    InputError
        When the machine or substrate left the shelf, or marks without a beam.
    """
    machine, substrate = machine_of(job), job.substrate
    part = MachinePart.model_validate(machine.part)
    if part.touches:
        raise InputError(f"{machine} marks without a beam; its marks would be too thin.")
    if substrate is None:
        raise InputError("Choose a substrate first; the marks are burned in it.")
    found = Recipe.objects.fitting(machine.pk, substrate.pk).first()
    spec = JobSpec(
        name=f"Camera marks, {machine}"[:200],
        machine=part,
        substrate=SubstratePart.model_validate(substrate.part),
    )
    spec = with_recipe(spec, found) if found else spec
    spec = _with_marks(spec, min(spec.size.pitch_mm, _WIDEST_PITCH_MM))
    artwork = keep_artwork(spec.artwork.file, [_marks_png(spec)])
    kept = {"sha256": artwork.sha256, "width_px": artwork.width_px,
            "height_px": artwork.height_px}  # fmt: skip
    spec = updated(spec, {"artwork": kept})
    relations = {"machine": machine.pk, "substrate": substrate.pk,
                 "recipe": found.pk if found else None}  # fmt: skip
    return open_described(artwork, spec, relations)


def _with_marks(spec: JobSpec, pitch_mm: float) -> JobSpec:
    """Return a job that burns its machine's marks where they belong."""
    machine = spec.machine
    left, front, *_ = bed_marks(machine).box()
    picture = marks_picture(machine, pitch_mm)
    size = {
        "width_mm": picture.shape[1] * pitch_mm, "height_mm": picture.shape[0] * pitch_mm,
        "pitch_mm": pitch_mm, "dot_pitch_mm": None, "fit": "exact", "lock_ratio": False,
    }  # fmt: skip
    artwork = ArtworkPart(
        file="Camera marks.png", keep_dots=True, width_px=picture.shape[1],
        height_px=picture.shape[0],
    )  # fmt: skip
    card = BlankPart(
        name="Card over the bed", width_mm=machine.bed_width_mm,
        height_mm=machine.bed_height_mm,
    )  # fmt: skip
    plain = spec.model_copy(update={
        "artwork": artwork, "blank": card, "place": PlacePart(x_mm=left, y_mm=front)
    })  # fmt: skip
    return updated(plain, {"size": size})


def _marks_png(spec: JobSpec) -> bytes:
    codes = marks_picture(spec.machine, spec.size.pitch_mm)
    stream = io.BytesIO()
    image = Image.fromarray(codes if spec.burns_dark else 255 - codes)
    image.save(stream, "PNG", dpi=png_density(spec.size.cell_mm))
    return stream.getvalue()
