"""Pictures for the table, and files a job gives away."""

import tempfile
from typing import IO, Any

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs.exports import gate
from workshop.jobs.exports.files import KINDS, PROOF_PX, file_name, write_file
from workshop.jobs.exports.machine_files import check_copies, write_download
from workshop.jobs.models import Artwork, Job
from workshop.jobs.pictures import pieces, quick_looks, wall, windows
from workshop.jobs.revisions import writer
from workshop.jobs.revisions.standing import as_it_stands
from workshop.jobs.stations.place import path_view
from workshop.jobs.takes import takes
from workshop.jobs.views.answers import job_numbered, refused
from workshop.shell.numbers import finite, whole
from workshop.shell.services import Error

_FOR_EVER = "private, max-age=31536000, immutable"


@require_GET
@as_it_stands
def picture(request: HttpRequest, number: int, view: str, key: str) -> HttpResponse:
    """Return a window of a view, of the job or a take."""
    job = job_numbered(number)
    wanted = request.GET.dict()
    if view not in windows.VIEWS:
        raise Http404
    try:
        spec = _spec_of(job, wanted)
        if windows.view_key(spec, view) != key:
            return past()
        if wanted.get("without") == "tone":
            spec = windows.untoned(spec)
        if "turned" in wanted:
            spec = windows.turned_about(spec)
        window = windows.window_of(spec, wanted)
        lamp = windows.lamp_of(wanted)
        if "quick" in wanted and (
            quick := quick_looks.quick_look(spec, view, window, lamp)
        ):
            return kept(quick)
        asked = "main" in wanted and "take" not in wanted
        found = windows.picture(spec, view, window, number if asked else 0, lamp)
    except Error as error:
        return refused(error.message)
    return kept(found)


def _spec_of(job: Job, wanted: dict[str, str]) -> Any:
    if "take" in wanted:
        return takes.take_spec(takes.take_of(job, wanted["take"]))
    return writer.shown_spec(job)


@require_GET
@as_it_stands
def thumb(request: HttpRequest, number: int, key: str) -> HttpResponse:
    """Return the whole proof, small."""
    spec = writer.shown_spec(job_numbered(number))
    if windows.view_key(spec, "proof") != key:
        return past()
    return kept(windows.thumbnail(spec, 400))


@require_GET
@as_it_stands
def piece(request: HttpRequest, number: int, key: str) -> HttpResponse:
    """Return the piece cut to its blank, small."""
    spec = writer.shown_spec(job_numbered(number))
    return (
        kept(pieces.piece_picture(spec, 440)) if pieces.piece_key(spec) == key else past()
    )


@require_GET
@as_it_stands
def wall_picture(request: HttpRequest, number: int, key: str) -> HttpResponse:
    """Return a round piece seen from a side."""
    spec = writer.spec_of(job_numbered(number))
    if wall.wall_key(spec) != key:
        return past()
    try:
        turn = finite(request.GET.get("turn", "0"))
    except ValueError:
        turn = 0.0
    return kept(wall.wall_picture(spec, turn if abs(turn) <= 360 else 0.0, 320))


@require_GET
@as_it_stands
def path_picture(request: HttpRequest, number: int, key: str) -> HttpResponse:
    """Return a window of the tool path, each pixel with its time."""
    spec = writer.spec_of(job_numbered(number))
    if path_view.path_key(spec) != key:
        return past()
    return kept(path_view.path_picture(spec, request.GET.dict()))


@require_GET
@as_it_stands
def path_heads(request: HttpRequest, number: int, key: str) -> HttpResponse:
    """Return where the head is along the way."""
    spec = writer.spec_of(job_numbered(number))
    if path_view.path_key(spec) != key:
        return past()
    return HttpResponse(path_view.path_heads(spec), content_type="application/json")


@require_GET
@never_cache
def uncropped(request: HttpRequest, number: int) -> HttpResponse:
    """Return the whole turned picture, to crop it."""
    found = windows.turned_source(writer.spec_of(job_numbered(number)), 1600)
    return HttpResponse(found.data, content_type=found.content_type)


@require_GET
@never_cache
def whole_file(request: HttpRequest, number: int) -> HttpResponse:
    """Return the file as it is, to set its corners."""
    found = windows.file_picture(writer.spec_of(job_numbered(number)), 1600)
    return HttpResponse(found.data, content_type=found.content_type)


@require_GET
@as_it_stands
def mix(request: HttpRequest, number: int, name: str, key: str) -> HttpResponse:
    """Return the picture in one gray mix, small."""
    try:
        spec = writer.spec_of(job_numbered(number))
        if windows.mix_key(spec) != key:
            return past()
        return kept(windows.mix_picture(spec, name, 200))
    except Error as error:
        return refused(error.message)


@require_GET
def sheet_thumb(request: HttpRequest, pk: int, page: int) -> HttpResponse:
    """Return a page of a file, small."""
    artwork = get_object_or_404(Artwork, pk=pk)
    try:
        return kept(windows.sheet_picture(artwork, page, 200))
    except Error as error:
        return refused(error.message)


def past() -> HttpResponse:
    """Answer that a picture is not of the job as it is now: nobody may keep another."""
    response = HttpResponse(status=410)
    response["Cache-Control"] = "no-store"
    return response


def kept(found: windows.Picture) -> HttpResponse:
    """Answer with a picture that never changes at its address."""
    response = HttpResponse(found.data, content_type=found.content_type)
    response["Cache-Control"] = _FOR_EVER
    return response


@require_GET
@never_cache
def job_file(request: HttpRequest, number: int, kind: str) -> HttpResponseBase:
    """Give away one of the job's files."""
    if kind not in KINDS:
        raise Http404
    job = job_numbered(number)
    text = request.GET.get("pixels", "")
    pixels = whole(text) if text else PROOF_PX
    if pixels is None:
        return refused(f"“{text[:40]}” is no number of pixels; type something like 2000.")
    stream = tempfile.TemporaryFile()  # noqa: SIM115 (the response closes it)
    try:
        address = request.build_absolute_uri(reverse("job", args=[number]))
        write_file(job, kind, stream, pixels, address)
    except Error as error:
        stream.close()
        return refused(error.message)
    return _given(stream, file_name(job, kind), KINDS[kind][1])


def _given(stream: IO[bytes], name: str, content_type: str) -> FileResponse:
    stream.seek(0)
    return FileResponse(
        stream, as_attachment=True, filename=name, content_type=content_type
    )


@require_GET
@never_cache
def gcode(request: HttpRequest, number: int) -> HttpResponseBase:
    """Give away the machine's file, or a zip of its files; ``each=pocket`` cuts it."""
    job = job_numbered(number)
    stream = tempfile.TemporaryFile()  # noqa: SIM115 (the response closes it)
    by_pocket = request.GET.get("each") == "pocket"
    try:
        why = gate.held(job)
        if not why:
            name, kind = write_download(job, stream, by_pocket=by_pocket)
    except Error as error:
        why = error.message
    if why:
        stream.close()
        return refused(why)
    return _given(stream, name, kind)


@require_POST
def check_gcode(request: HttpRequest, number: int) -> HttpResponse:
    """Say whether copies of a job's files are whole."""
    job = job_numbered(number)
    copies = request.FILES.getlist("copies")
    if not copies:
        return refused("Choose the files on the card first.")
    by_pocket = request.POST.get("each") == "pocket"
    try:
        checked = check_copies(job, copies, by_pocket=by_pocket)
    except Error as error:
        return refused(error.message)
    context = {"checked": checked, "job": job}
    return render(request, "jobs/_partials/checked.html", context)
