"""The ticket and the table. Views parse, call a service, render."""

from collections.abc import Iterator
from itertools import count, product
from string import ascii_uppercase
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs.exports import gate
from workshop.jobs.exports.files import run_sheet
from workshop.jobs.hands.lines import after
from workshop.jobs.hands.ticks import hand_list
from workshop.jobs.models import STATIONS, Job
from workshop.jobs.pictures import intake, pieces, store, windows
from workshop.jobs.revisions import writer
from workshop.jobs.revisions.differences import also_changed
from workshop.jobs.revisions.standing import as_it_stands, unless_changed
from workshop.jobs.stations import registry
from workshop.jobs.stations.form import StationForm
from workshop.jobs.stations.outlines.facts import timed_rows
from workshop.jobs.stations.place import path_view
from workshop.jobs.stations.tone import facts
from workshop.jobs.ticket.findings import apply_fix, full_check
from workshop.jobs.ticket.lifecycle import note_check, visit
from workshop.jobs.ticket.readings import full_readings, quick_readings
from workshop.jobs.ticket.signing import last_name, sign_off, signed, take_back, void
from workshop.jobs.views.answers import (
    answer,
    is_partial,
    job_numbered,
    looked_at_again,
    meanwhile,
    refused,
    ticket_context,
)
from workshop.shelf.machines.timing import correction_of
from workshop.shell.numbers import finite
from workshop.shell.services import Error


@require_POST
def add_sheets(request: HttpRequest, number: int) -> HttpResponse:
    """Put further pictures on a ticket, to choose from."""
    job = job_numbered(number)
    for upload in request.FILES.getlist("files"):
        try:
            artwork = intake.keep_artwork(upload.name or "picture", upload.chunks())
        except Error as error:
            return refused(f"{upload.name}: {error.message}")
        intake.add_sheet(job, artwork)
    return answer(request, job_numbered(number), said="Added; choose it above.")


@require_POST
def add_font(request: HttpRequest, number: int) -> HttpResponse:
    """Take in a font for lettering."""
    upload = request.FILES.get("font")
    if upload is None:
        return refused("Choose a font file first.")
    try:
        font = store.keep_font(upload.name or "font", upload.read())
    except Error as error:
        return refused(f"{upload.name}: {error.message}")
    return answer(request, job_numbered(number), said=f"{font.name} can be chosen now.")


@require_POST
def pick_colour(request: HttpRequest, number: int) -> HttpResponse:
    """Drop the colour at a point of the file."""
    job = job_numbered(number)
    try:
        x, y = finite(request.POST["x"]), finite(request.POST["y"])
        colour = windows.colour_at(writer.spec_of(job), x, y)
        registry.change_station(job, "artwork", {"drop_add": colour})
    except (KeyError, ValueError):
        return refused("Pick a point on the picture.")
    except Error as error:
        return refused(error.message)
    return answer(request, job_numbered(number))


@never_cache
def ticket(request: HttpRequest, number: int) -> HttpResponse:
    """Show a ticket at the station it was left at."""
    if Job.everything.filter(number=number).exclude(removed_at=None).exists():
        return redirect("bin")
    job = job_numbered(number)
    return render(request, "jobs/ticket.html", ticket_context(request, job))


@never_cache
def station(request: HttpRequest, number: int, station: str) -> HttpResponse:
    """Show a station, or change the job there."""
    if station not in STATIONS:
        raise Http404
    job = job_numbered(number)
    if request.method == "POST" and (form := registry.form_of(job, station)):
        return _change(request, job, station, form)
    visit(job, station)
    looked = looked_at_again(request, job) if "X-Look" in request.headers else None
    if looked:
        return looked
    if not is_partial(request):
        return render(request, "jobs/ticket.html", ticket_context(request, job))
    return answer(request, job)


def _change(
    request: HttpRequest, job: Job, station: str, kind: type[StationForm]
) -> HttpResponse:
    visit(job, station)
    before = writer.spec_of(job)
    form = kind.of(request.POST, registry.station_values(job, station))
    theirs = meanwhile(request, job, form)
    form.apply(
        lambda changes: registry.change_station(job, station, changes, apart=bool(theirs))
    )
    if form.errors:
        return answer(request, job_numbered(job.number), form, said=theirs)
    said = theirs or also_changed(before, writer.spec_of(job), form.typed)
    live = request.headers.get("X-Live") == "1" and not said
    same = windows.lies_the_same(before, writer.spec_of(job))
    response = answer(request, job, live=live, ahead=same, said=said)
    if theirs:
        response["X-Meanwhile"] = "1"
    return response


@require_POST
def step(request: HttpRequest, number: int, verb: str) -> HttpResponse:
    """Undo or redo one change."""
    job = job_numbered(number)
    label = writer.undo(job) if verb == "undo" else writer.redo(job)
    word = "Undone" if verb == "undo" else "Done again"
    said = f"{word}: {label}." if label else f"There is nothing to {verb}."
    return answer(request, job_numbered(number), said=said)


def _readings_later(request: HttpRequest, number: int) -> HttpResponse:
    """Show that the readings are still to come; the page asks again after a rest."""
    job = job_numbered(number)
    spec = writer.spec_of(job)
    context = {"job": job, "spec": spec, "readings": quick_readings(spec), "exact": False}
    return render(request, "jobs/_partials/readings.html", context)


@require_GET
@never_cache
@unless_changed(_readings_later)
def readings(request: HttpRequest, number: int) -> HttpResponse:
    """Show the readings computed from the real dots, and the exact histogram."""
    job = job_numbered(number)
    spec = writer.spec_of(job)
    try:
        full = full_readings(spec, correction_of(job.machine))
    except Error as error:
        return refused(error.message)
    exact = job.station == "tone"
    context = {"job": job, "spec": spec, "readings": full, "exact": exact}
    if exact:
        context["facts"] = facts.tone_facts(spec)
    return render(request, "jobs/_partials/readings_answer.html", context)


@require_GET
@never_cache
@as_it_stands
def findings(request: HttpRequest, number: int) -> HttpResponse:
    """Show what the rules found."""
    job = job_numbered(number)
    context = _findings(request, job)
    note_check(job)
    return render(request, "jobs/_partials/findings.html", context)


def _signer(request: HttpRequest) -> str:
    """Return who signs: who typed it just now, who is signed in, or who signed last."""
    typed = request.POST.get("name", "").strip()
    return typed or request.user.get_username() or last_name()


def _findings(request: HttpRequest, job: Job) -> dict[str, Any]:
    spec = writer.spec_of(job)
    found, fine = full_check(job, spec)
    names, gone = signed(job), void(job, found)
    counts = {
        weight: sum(finding.severity == weight for finding in found)
        for weight in ("stop", "caution", "note")
    }
    return {
        "job": job,
        "spec": spec,
        "findings": [
            (letter, one, names.get(one.rests_on), gone.get(one.rule))
            for letter, one in zip(_letters(), found, strict=False)
        ],
        "fine": fine,
        "counts": counts,
        "key": pieces.piece_key(writer.shown_spec(job)),
        "signer": _signer(request),
        "unsigned": sum(
            one.severity == "caution" and one.rests_on not in names for one in found
        ),
    }


def _letters() -> Iterator[str]:
    """Yield A to Z, then AA, AB and so on."""
    for length in count(1):
        yield from map("".join, product(ascii_uppercase, repeat=length))


@require_POST
def fix(request: HttpRequest, number: int, rule: str) -> HttpResponse:
    """Apply the fix a finding offers."""
    job = job_numbered(number)
    try:
        said = apply_fix(job, rule)
    except Error as error:
        return refused(error.message)
    return answer(
        request, job_numbered(number), said=f"{said}. Undo takes it back." if said else ""
    )


@require_POST
def sign(request: HttpRequest, number: int, rule: str) -> HttpResponse:
    """Sign a caution off, or take the signature back."""
    job = job_numbered(number)
    if request.POST.get("back"):
        take_back(job, rule)
        return render(request, "jobs/_partials/findings.html", _findings(request, job))
    name = request.POST.get("name", "").strip()
    if not name:
        return refused("Type your name or initials first; they stay with the signature.")
    found = [one for one in full_check(job)[0] if one.rule == rule]
    if request.POST.get("rests_on", "") not in [one.rests_on for one in found]:
        return refused("The job was changed since this page was opened; look at it again.")
    sign_off(job, name, found)
    return render(request, "jobs/_partials/findings.html", _findings(request, job))


@require_GET
@never_cache
@as_it_stands
def sheet(request: HttpRequest, number: int) -> HttpResponse:
    """Show time, moves and file size."""
    job = job_numbered(number)
    spec = writer.spec_of(job)
    correction, planned = correction_of(job.machine), run_sheet(spec)
    context = {"job": job, "spec": spec, "sheet": planned, "correction": correction}
    context |= {
        "takes": correction.seconds(planned.estimate.seconds, planned.estimate.rows)
    }
    context |= {"held": gate.held(job)}
    context |= {"list": hand_list(job, spec), "after": after(job)}
    context |= {"order": timed_rows(spec)}
    context |= {"path": path_view.path_facts(spec), "path_key": path_view.path_key(spec)}
    context |= {"side": path_view.side_facts(spec)}
    return render(request, "jobs/_partials/sheet.html", context)
