"""The list of operations on the Outlines station, and drawings in and out."""

from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs.models import Job
from workshop.jobs.revisions import writer
from workshop.jobs.stations.outlines import operations
from workshop.jobs.stations.outlines.form import OperationForm
from workshop.jobs.stations.outlines.station import operation_form
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
    """Do it; return which operation is open afterwards."""
    if verb not in _ACTS:
        raise Http404
    at_then = _ACTS[verb](job, at, sent)
    return at if at_then is None else at_then


_ACTS: dict[str, Callable[[Job, int, Any], int | None]] = {
    "look": lambda _job, at, _sent: at,
    "add": lambda job, _at, sent: operations.add(job, sent["kind"], sent["shape"]),
    "around": lambda job, _at, _sent: operations.cut_around(job),
    "move": lambda job, at, sent: operations.move(job, at, _read_whole(sent["to"])),
    "on": lambda job, at, _sent: operations.switch(job, at, "on"),
    "seen": lambda job, at, _sent: operations.switch(job, at, "seen"),
    "rings": lambda job, at, sent: operations.use_rings(
        job, at, _read_points(sent["points"]), use=sent.get("use") == "1"
    ),
    "split": lambda job, at, sent: operations.split(
        job,
        at,
        _read_points(sent["points"]),
        (finite(sent.get("x", "0")), finite(sent.get("y", "0"))),
    ),
    "all": lambda job, at, _sent: operations.use_all(job, at),
    "remove": lambda job, at, _sent: operations.remove(job, at),
}
"""What is done to the list; returns which operation is open then, else the same."""


def _read_points(text: str) -> list[tuple[float, float]]:
    """Read ``x y;x y``, each of which means a ring."""
    pairs = [part.split() for part in text.split(";") if part.strip()]
    return [(finite(x), finite(y)) for x, y in pairs]


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
    live = request.headers.get("X-Live") == "1" and not said and not form.errors
    faulty = form if form.errors else None
    return _answer(request, number, at, faulty, said=said, live=live)


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
    live: bool = False,
) -> HttpResponse:
    """Return the station with an operation open, and remember which."""
    request.COOKIES["operation"] = str(looked)
    also = {"operation": form} if form is not None else None
    response = answer(request, job_numbered(number), also=also, said=said, live=live)
    response.set_cookie("operation", str(looked), max_age=_A_MONTH, samesite="Lax")
    return response
