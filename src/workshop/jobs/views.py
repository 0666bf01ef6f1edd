"""The rack, the ticket and the table. Views parse, call a service, render."""

import json
import tempfile
from typing import Any

from django.http import FileResponse, Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs import choices
from workshop.jobs.forms import FORMS, StationForm
from workshop.jobs.models import STATIONS, Job
from workshop.jobs.services import (
    engine,
    outputs,
    pictures,
    stations,
    store,
    tickets,
)
from workshop.jobs.services import (
    readings as facts,
)

_FOR_EVER = "private, max-age=31536000, immutable"


def _job(number: int) -> Job:
    return get_object_or_404(Job.objects.with_all(), number=number)


def _partial(request: HttpRequest) -> bool:
    """Whether htmx asks for a part of a page."""
    return bool(getattr(request, "htmx", False))


# The rack


def rack(request: HttpRequest) -> HttpResponse:
    """Show the tickets."""
    text = request.GET.get("find", "").strip()
    jobs = Job.objects.with_all()
    jobs = jobs.found_by(text) if text else jobs
    context = {
        "to_do": [_hanging(job) for job in jobs.to_do()],
        "burned": [_hanging(job) for job in jobs.burned_lately()],
        "find": text,
    }
    page = "jobs/_partials/tickets.html" if _partial(request) else "jobs/rack.html"
    return render(request, page, context)


def _hanging(job: Job) -> dict[str, Any]:
    spec = tickets.spec_of(job)
    found = facts.quick_findings(job, spec)
    lines = facts.station_lines(job, spec, found)
    stops, cautions = facts.weights(found)
    done = sum(line.state == "done" for line in lines)
    unfinished = next((line.name for line in lines if line.state != "done"), "")
    return {
        "job": job,
        "spec": spec,
        "lines": lines,
        "done": done,
        "key": pictures.view_keys(spec)["proof"],
        "stops": stops,
        "cautions": cautions,
        "unfinished": unfinished,
        "ready": not stops and done >= len(STATIONS) - 1,
    }


@require_POST
def new_job(request: HttpRequest) -> HttpResponse:
    """Open a ticket for each uploaded picture, or for a job file."""
    files = request.FILES.getlist("files")
    if not files:
        return _refused("Choose a picture first.")
    job = None
    for upload in files:
        try:
            if (upload.name or "").lower().endswith(".zip"):
                job = outputs.open_job_file(upload)  # type: ignore[arg-type]
            else:
                artwork = store.keep_artwork(upload.name or "picture", upload.chunks())
                job = tickets.open_job(artwork)
        except tickets.Error as error:
            return _refused(f"{upload.name}: {error.message}")
    where = (
        reverse("rack") if len(files) > 1 or not job else reverse("job", args=[job.number])
    )
    response = HttpResponse(status=204)
    response["HX-Redirect"] = where
    return response


def _refused(sentence: str) -> HttpResponse:
    return HttpResponse(sentence, status=422, content_type="text/plain; charset=utf-8")


@require_GET
@never_cache
def ready(request: HttpRequest) -> HttpResponse:
    """Say whether every kernel is warm."""
    return JsonResponse({"ready": engine.is_warm()})


# The ticket


@never_cache
def ticket(request: HttpRequest, number: int) -> HttpResponse:
    """Show a ticket at the station it was left at."""
    job = _job(number)
    return render(request, "jobs/ticket.html", _context(job))


@never_cache
def station(request: HttpRequest, number: int, station: str) -> HttpResponse:
    """Show a station, or change the job there."""
    if station not in STATIONS:
        raise Http404
    job = _job(number)
    if request.method == "POST" and station in FORMS:
        return _change(request, job, station)
    tickets.visit(job, station)
    if not _partial(request):
        return render(request, "jobs/ticket.html", _context(job))
    return _answer(request, job)


def _change(request: HttpRequest, job: Job, station: str) -> HttpResponse:
    tickets.visit(job, station)
    form = FORMS[station](request.POST, initial=stations.station_values(job, station))
    if form.is_valid():
        try:
            stations.change_station(job, station, form.changes())
        except tickets.Error as error:
            form.add_error(form.field_of(error.field), error.message)
    if form.errors:
        return _answer(request, _job(job.number), form)
    return _answer(request, job, live=request.headers.get("X-Live") == "1")


def _answer(
    request: HttpRequest,
    job: Job,
    form: StationForm | None = None,
    *,
    live: bool = False,
    said: str = "",
) -> HttpResponse:
    """Return what a change alters: the stations, and beside them the rest."""
    context = {**_context(job, form, live=live), "said": said}
    if not live:
        return render(request, "jobs/_partials/answer.html", context)
    response = render(request, "jobs/_partials/live.html", context)
    response["HX-Reswap"] = "none"
    # The table fetches its picture before the page has taken in the rest.
    response["X-Keys"] = json.dumps(context["keys"])
    return response


def _context(
    job: Job, form: StationForm | None = None, *, live: bool = False
) -> dict[str, Any]:
    spec, slug = tickets.spec_of(job), job.station
    found = facts.quick_findings(job, spec)
    can_undo, can_redo = tickets.can_undo_redo(job)
    context: dict[str, Any] = {
        "job": job,
        "spec": spec,
        "lines": facts.station_lines(job, spec, found),
        "station": slug,
        "station_template": f"jobs/stations/{slug}.html",
        "can_undo": can_undo,
        "can_redo": can_redo,
        "keys": pictures.view_keys(spec),
        "stage": facts.stage_facts(spec),
        "readings": facts.quick_readings(spec),
        "form": form,
        "said": "",
        "stops": facts.weights(found)[0],
        "first_fix": facts.first_fix(found),
    }
    if slug in FORMS and form is None and not live:
        values = stations.station_values(job, slug)
        context["form"] = FORMS[slug](initial=values)
    context.update(_station_context(job, spec, slug, live=live))
    return context


def _station_context(job: Job, spec: Any, slug: str, *, live: bool) -> dict[str, Any]:
    if slug == "blank":
        return {"facts": facts.blank_facts(spec)}
    if slug == "tone":
        return {"facts": facts.tone_facts(spec, quick=live)}
    if slug == "dots":
        return {"methods": choices.dot_methods()}
    if slug == "burn":
        return {"facts": facts.burn_facts(spec, job)}
    if slug == "place":
        return {"facts": facts.place_facts(spec)}
    return {}


@require_POST
def step(request: HttpRequest, number: int, verb: str) -> HttpResponse:
    """Undo or redo one change."""
    job = _job(number)
    label = tickets.undo(job) if verb == "undo" else tickets.redo(job)
    word = "Undone" if verb == "undo" else "Done again"
    said = f"{word}: {label}." if label else f"There is nothing to {verb}."
    return _answer(request, _job(number), said=said)


@require_POST
def copy(request: HttpRequest, number: int) -> HttpResponse:
    """Open a new ticket with the same settings."""
    return redirect("job", number=tickets.copy(_job(number)).number)


@require_POST
def remove(request: HttpRequest, number: int) -> HttpResponse:
    """Take a ticket off the rack."""
    tickets.remove(_job(number))
    return redirect("rack")


# What takes a moment comes by itself


@require_GET
@never_cache
def readings(request: HttpRequest, number: int) -> HttpResponse:
    """Show the readings computed from the real dots, and the exact histogram."""
    job = _job(number)
    spec = tickets.spec_of(job)
    try:
        full = facts.full_readings(spec)
    except tickets.Error as error:
        return _refused(error.message)
    context = {"job": job, "spec": spec, "readings": full}
    if job.station == "tone":
        context["facts"] = facts.tone_facts(spec)
    return render(request, "jobs/_partials/readings_answer.html", context)


@require_GET
@never_cache
def findings(request: HttpRequest, number: int) -> HttpResponse:
    """Show what the rules found."""
    job = _job(number)
    return render(request, "jobs/_partials/findings.html", _findings(job))


def _findings(job: Job) -> dict[str, Any]:
    spec = tickets.spec_of(job)
    found, fine = facts.full_check(spec)
    counts = {
        weight: sum(finding.severity == weight for finding in found)
        for weight in ("stop", "caution", "note")
    }
    return {
        "job": job,
        "spec": spec,
        "findings": list(zip("ABCDEFGHIJKLM", found, strict=False)),
        "fine": fine,
        "counts": counts,
        "key": pictures.view_keys(spec)["proof"],
        "signed": job.signed_revision == (job.head.number if job.head else None),
    }


@require_POST
def fix(request: HttpRequest, number: int, rule: str) -> HttpResponse:
    """Apply the fix a finding offers."""
    job = _job(number)
    try:
        said = outputs.apply_fix(job, rule)
    except tickets.Error as error:
        return _refused(error.message)
    return _answer(
        request, _job(number), said=f"{said}. Undo takes it back." if said else ""
    )


@require_POST
def sign(request: HttpRequest, number: int) -> HttpResponse:
    """Sign the cautions off."""
    job = _job(number)
    name = request.POST.get("initials", "").strip()
    if not name:
        return _answer(request, job, said="Type your initials to sign off.")
    tickets.sign_off(job, name)
    return _answer(request, _job(number), said=f"Signed off by {name[:40]}.")


@require_GET
@never_cache
def sheet(request: HttpRequest, number: int) -> HttpResponse:
    """Show time, moves and file size."""
    job = _job(number)
    spec = tickets.spec_of(job)
    context = {"job": job, "spec": spec, "sheet": outputs.run_sheet(spec)}
    return render(request, "jobs/_partials/sheet.html", context)


# Pictures and files


@require_GET
def picture(request: HttpRequest, number: int, view: str, key: str) -> HttpResponse:
    """Return a window of a view; a key that is past gets 410."""
    spec = tickets.spec_of(_job(number))
    if view not in pictures.VIEWS:
        raise Http404
    if pictures.view_keys(spec)[view] != key:
        return HttpResponse(status=410)
    try:
        window = pictures.window_of(spec, request.GET.dict())
        found = pictures.picture(spec, view, window, number if "main" in request.GET else 0)
    except tickets.Error as error:
        return _refused(error.message)
    return _kept(found)


@require_GET
def thumb(request: HttpRequest, number: int, key: str) -> HttpResponse:
    """Return the whole proof, small; the key only makes the address unique."""
    spec = tickets.spec_of(_job(number))
    return _kept(pictures.thumbnail(spec, 400))


@require_GET
@never_cache
def uncropped(request: HttpRequest, number: int) -> HttpResponse:
    """Return the whole turned picture, to crop it."""
    found = pictures.turned_source(tickets.spec_of(_job(number)), 1600)
    return HttpResponse(found.data, content_type=found.content_type)


def _kept(found: pictures.Picture) -> HttpResponse:
    response = HttpResponse(found.data, content_type=found.content_type)
    response["Cache-Control"] = _FOR_EVER
    return response


@require_GET
@never_cache
def job_file(request: HttpRequest, number: int, kind: str) -> HttpResponseBase:
    """Give away one of the job's files."""
    if kind not in outputs.KINDS:
        raise Http404
    job = _job(number)
    if (
        kind == "gcode"
        and facts.weights(facts.quick_findings(job, tickets.spec_of(job)))[0]
    ):
        return _refused("A stop holds this job; see its Check station.")
    stream = tempfile.TemporaryFile()  # noqa: SIM115 (the response closes it)
    outputs.write_file(job, kind, stream)
    stream.seek(0)
    return FileResponse(
        stream,
        as_attachment=True,
        filename=outputs.file_name(job, kind),
        content_type=outputs.KINDS[kind][1],
    )
