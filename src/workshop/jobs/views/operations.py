"""The list of operations on the Place station, and drawings in and out."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs.models import Job
from workshop.jobs.revisions import writer
from workshop.jobs.stations.outlines import operations
from workshop.jobs.stations.outlines.form import OperationForm
from workshop.jobs.stations.place.station import operation_form
from workshop.jobs.views.answers import (
    answer,
    job_numbered,
    meanwhile,
    refused,
)
from workshop.shell.numbers import finite, whole
from workshop.shell.services import Error

_A_MONTH = 30 * 24 * 3600


@require_POST
def act(request: HttpRequest, number: int, verb: str) -> HttpResponse:
    """Do something to the list: add, remove, move, switch, look, or choose rings."""
    job = job_numbered(number)
    try:
        at = _read_whole(request.POST.get("at", "0"))
        looked = _act(job, verb, at, request.POST)
    except (ValueError, KeyError):
        return refused("This operation cannot be read.")
    except Error as error:
        return refused(error.message)
    return _answer(request, number, looked)


def _read_whole(text: str) -> int:
    found = whole(text)
    if found is None:
        raise ValueError(text)
    return found


def _act(job: Job, verb: str, at: int, sent: Any) -> int:
    if verb == "look":
        return at
    if verb == "add":
        return operations.add(job, sent["kind"], sent["shape"])
    if verb == "move":
        return operations.move(job, at, _read_whole(sent["to"]))
    if verb in ("on", "seen"):
        operations.switch(job, at, verb)
    elif verb == "ring":
        x, y = (finite(part) for part in sent["point"].split())
        operations.press_ring(job, at, (x, y))
    elif verb == "all":
        operations.use_all(job, at)
    elif verb == "remove":
        operations.remove(job, at)
        return max(at - 1, 0)
    else:
        raise Http404
    return at


@require_POST
def change(request: HttpRequest, number: int) -> HttpResponse:
    """Change the settings of the operation that is looked at."""
    job = job_numbered(number)
    at = whole(request.POST.get("at", ""))
    spec = writer.spec_of(job)
    if at is None or at >= len(spec.operations):
        return refused("This operation is not on the list any more.")
    form = operation_form(job, spec, at, request.POST)
    said = meanwhile(request, job, form)
    form.apply(lambda changes: operations.edit(job_numbered(number), at, changes))
    return _answer(request, number, at, form if form.errors else None, said=said)


@require_POST
def add_file(request: HttpRequest, number: int) -> HttpResponse:
    """Take outlines out of an SVG or DXF file."""
    job = job_numbered(number)
    upload = request.FILES.get("drawing")
    if upload is None:
        return refused("Choose an SVG or DXF file first.")
    try:
        at = operations.add_file(job, upload.name or "drawing", upload.read())
    except Error as error:
        return refused(f"{upload.name}: {error.message}")
    return _answer(request, number, at)


@require_GET
@never_cache
def give(request: HttpRequest, number: int, kind: str) -> HttpResponse:
    """Give all outlines away as a drawing, at true size."""
    types = {"svg": "image/svg+xml", "dxf": "image/vnd.dxf"}
    if kind not in types:
        raise Http404
    try:
        data = operations.outline_file(writer.spec_of(job_numbered(number)), kind)
    except Error as error:
        return refused(error.message)
    response = HttpResponse(data, content_type=types[kind])
    response["Content-Disposition"] = f'attachment; filename="{number:04d}-outlines.{kind}"'
    return response


def _answer(
    request: HttpRequest,
    number: int,
    looked: int,
    form: OperationForm | None = None,
    *,
    said: str = "",
) -> HttpResponse:
    """Return the station with an operation open, and remember which."""
    request.COOKIES["operation"] = str(looked)
    request.COOKIES["fold"] = "operations"
    also = {"operation": form} if form is not None else None
    response = answer(request, job_numbered(number), also=also, said=said)
    response.set_cookie("operation", str(looked), max_age=_A_MONTH, samesite="Lax")
    return response
