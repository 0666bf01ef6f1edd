"""The bed camera on the Place station."""

from collections.abc import Callable

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs.camera import bed_camera
from workshop.jobs.cards.camera_marks import open_marks
from workshop.jobs.models import Job
from workshop.jobs.views.answers import answer, job_numbered, refused, sent_to
from workshop.shelf.photos import hold_size
from workshop.shell.numbers import whole
from workshop.shell.services import Error

_FOLD = "camera"


@require_POST
def marks(request: HttpRequest, number: int) -> HttpResponse:
    """Open a job that burns the marks the camera is calibrated by."""
    try:
        opened = open_marks(job_numbered(number))
    except Error as error:
        return refused(error.message)
    return sent_to(opened, "burn")


@require_POST
def photo(request: HttpRequest, number: int, what: str) -> HttpResponse:
    """Calibrate the camera by an uploaded photo, or lay it under the bed."""
    upload = request.FILES.get("photo")
    if upload is None:
        return refused("Choose a photo first.")
    try:
        hold_size(upload.size or 0)
    except Error as error:
        return refused(error.message)
    return taken(request, job_numbered(number), what, upload.read)


def taken(
    request: HttpRequest, job: Job, what: str, photo_of: Callable[[], bytes]
) -> HttpResponse:
    """Use a photo of a job's bed: of its marks, or of what lies on it."""
    if what not in ("marks", "bed"):
        raise Http404
    request.COOKIES["fold"] = _FOLD
    if job.machine is None:
        return refused(
            "This job's machine is not on the shelf any more; choose one at Burn."
        )
    try:
        if what == "marks":
            camera = bed_camera.calibrate_by(job.machine, photo_of())
            said = f"Calibrated: marks lie {camera.residual_mm:.2f} mm off."
        else:
            count = bed_camera.look_at_bed(job.machine, photo_of())
            said = f"{count} blank{'s' if count != 1 else ''} found."
    except Error as error:
        return refused(error.message)
    return answer(request, job_numbered(job.number), said=said)


@require_POST
def lay(request: HttpRequest, number: int) -> HttpResponse:
    """Lay the piece on a found blank, or a piece on each."""
    request.COOKIES["fold"] = _FOLD
    job, text = job_numbered(number), request.POST.get("at", "")
    try:
        if text == "all":
            said = f"{bed_camera.lay_in_pockets(job)} pockets, as the blanks lie."
        elif bed_camera.lay_on(job, _at(text)):
            said = "Laid on the blank. Undo takes it back."
        else:
            said = "Laid on it, though it is not this job's blank. Undo takes it back."
    except Error as error:
        return refused(error.message)
    return answer(request, job_numbered(number), said=said)


def _at(text: str) -> int:
    at = whole(text)
    return -1 if at is None else at


@require_POST
def forget(request: HttpRequest, number: int) -> HttpResponse:
    """Take the photo away."""
    request.COOKIES["fold"] = _FOLD
    job = job_numbered(number)
    if job.machine is not None:
        bed_camera.forget_photo(job.machine)
    return answer(request, job_numbered(number))


@require_GET
def picture(request: HttpRequest, number: int, key: str) -> FileResponse:
    """Return the bed as its camera saw it, from straight above."""
    machine = job_numbered(number).machine
    if machine is None or machine.bed_seen.get("photo") != key:
        raise Http404
    return FileResponse(bed_camera.photo_path(key).open("rb"), content_type="image/jpeg")
