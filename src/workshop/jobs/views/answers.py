"""What every view of the rack and the tickets answers with."""

import json
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse

from workshop.jobs.approvals import asking
from workshop.jobs.models import Job
from workshop.jobs.patterns import patterns
from workshop.jobs.pictures import quick_looks, windows
from workshop.jobs.revisions import elsewhere, writer
from workshop.jobs.stations.form import StationForm
from workshop.jobs.stations.registry import station_of
from workshop.jobs.stations.station import Seen
from workshop.jobs.takes import takes
from workshop.jobs.ticket.findings import first_fix, quick_findings, weights
from workshop.jobs.ticket.readings import quick_readings
from workshop.jobs.ticket.stage import stage_facts
from workshop.jobs.ticket.summary import station_lines
from workshop.shell.numbers import whole


def job_numbered(number: int) -> Job:
    """Return the job of a ticket number, or answer 404."""
    return get_object_or_404(Job.objects.with_all(), number=number)


def is_partial(request: HttpRequest) -> bool:
    """Whether htmx asks for a part of a page."""
    return bool(getattr(request, "htmx", False))


def refused(sentence: str) -> HttpResponse:
    """Answer that something cannot be done, and why."""
    return HttpResponse(sentence, status=422, content_type="text/plain; charset=utf-8")


def meanwhile(request: HttpRequest, job: Job, form: StationForm) -> str:
    """Say whether the job was changed elsewhere since the page was made.

    The page tells the state it shows, and what it showed of each changed field.
    Nothing is undone: both changes stand, and of a field that was changed twice
    the newest value, with the other one named.
    """
    shown = request.headers.get("X-Base", "")
    if not shown or shown == job.state:
        return ""
    twice = []
    for name in sorted(form.typed):
        before, now = request.POST.get(f"was:{name}"), form.posted_now(name)
        if before is not None and before != now and now != form.data.get(name, ""):
            twice.append(f"{form.fields[name].label} was {now or 'off'} there")
    lost = f" {', '.join(twice)}; Undo goes back to it." if twice else ""
    what = elsewhere.told(job, shown)
    there = f" There: {what}." if what else ""
    both = "This ticket was changed on another page meanwhile; both changes stand."
    return f"{both}{there}{lost}"


def looked_at_again(request: HttpRequest, job: Job) -> HttpResponse | None:
    """Answer a page that looks whether it is still true; None shows the job anew.

    A page that comes back into sight asks so, and one that left with something
    typed asks whether that has arrived.
    """
    shown = request.headers.get("X-Base", "")
    if shown == job.state:
        return HttpResponse(status=204)
    if request.headers["X-Look"] != "others":
        return None
    what = elsewhere.told(job, shown)
    said = "This ticket was changed on another page meanwhile"
    response = answer(request, job, said=f"{said}: {what}." if what else f"{said}.")
    response["X-Meanwhile"] = "1"
    return response


def sent_to(job: Job, station: str) -> HttpResponse:
    """Answer by opening another job's station."""
    response = HttpResponse(status=204)
    response["HX-Redirect"] = reverse("station", args=[job.number, station])
    return response


def answer(  # noqa: PLR0913 (all but the first three keywords)
    request: HttpRequest,
    job: Job,
    form: StationForm | None = None,
    *,
    also: dict[str, Any] | None = None,
    live: bool = False,
    ahead: bool = False,
    said: str = "",
) -> HttpResponse:
    """Return what a change alters: the stations, and beside them the rest.

    ``also`` holds forms with faults that a station shows beside its own.

    Where the grid stayed as it was (`live`, `ahead`) the table fetches its
    picture before the page has taken in the rest.
    """
    context = ticket_context(request, job, form, live=live)
    context["said"] = said or writer.met()
    context |= also or {}
    opened = [one.fold() for one in (also or {}).values() if one.fold()]
    context |= {"fold": opened[0]} if opened else {}
    page = "jobs/_partials/live.html" if live else "jobs/_partials/answer.html"
    response = render(request, page, context)
    if live:
        response["HX-Reswap"] = "none"
    faulty = [one for one in (form, *(also or {}).values()) if one and one.errors]
    if faulty:
        # What still shows what was refused; "-" where nothing does.
        names = [name for one in faulty for name in one.refused]
        response["X-Faults"] = ",".join(names) or "-"
    if live or ahead:
        response["X-Keys"] = json.dumps(context["keys"])
    return response


def ticket_context(
    request: HttpRequest, job: Job, form: StationForm | None = None, *, live: bool = False
) -> dict[str, Any]:
    """Return what the ticket and its parts show."""
    spec, slug = writer.spec_of(job), job.station
    station = station_of(spec, slug)
    shown = writer.shown_spec(job)
    found = quick_findings(job, spec)
    can_undo, can_redo = writer.can_undo_redo(job)
    context: dict[str, Any] = {
        "job": job,
        "spec": spec,
        "lines": station_lines(job, spec, found),
        "station": slug,
        "station_template": station.template,
        "can_undo": can_undo,
        "can_redo": can_redo,
        "state": job.state,
        "keys": windows.view_keys(shown),
        "stage": {
            **stage_facts(shown),
            "large": "1" if quick_looks.is_large(shown) else "",
        },
        "readings": quick_readings(spec),
        "form": form,
        "fold": (form and form.fold()) or request.COOKIES.get("fold", ""),
        "said": "",
        "exact": False,
        **(
            {"takes": []} if live else takes.sent(job, spec, request.headers.get("X-Takes"))
        ),
        "stops": weights(found)[0],
        "first_fix": first_fix(found),
        "standing": asking.standing(job, spec),
        "offered_pattern": patterns.offered(job),
        "pattern_parts": list(patterns.PARTS),
    }
    if station.form and form is None and not live:
        context["form"] = station.form(initial=station.show(spec, job))
    looked = whole(request.COOKIES.get("operation", "0")) or 0
    return {**context, **station.besides(Seen(job, spec, live=live, looked=looked))}
