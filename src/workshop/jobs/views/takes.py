"""Takes: kept, opened, named, pinned, compared, made from two, burned as a strip."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs.models import Job, Take
from workshop.jobs.pictures import pieces
from workshop.jobs.revisions import writer
from workshop.jobs.takes import strip, takes
from workshop.jobs.takes.form import BetweenForm, StripForm
from workshop.jobs.views.answers import answer, job_numbered, refused
from workshop.jobs.views.files import kept, past
from workshop.shell.services import Error


def _take(job: Job, pk: int) -> Take:
    return get_object_or_404(Take.objects.select_related("job"), job=job, pk=pk)


@require_POST
def keep(request: HttpRequest, number: int) -> HttpResponse:
    """Keep the present state as a take."""
    job = job_numbered(number)
    try:
        take = takes.keep(job, request.POST.get("name", ""))
    except Error as error:
        return refused(error.message)
    return answer(request, job, said=f"Kept as take {take.letter}.")


@require_POST
def act(request: HttpRequest, number: int, pk: int, verb: str) -> HttpResponse:
    """Open, pin, name or drop a take."""
    job = job_numbered(number)
    take = _take(job, pk)
    if verb not in _VERBS:
        raise Http404
    try:
        said = _VERBS[verb](job, take, request)
    except Error as error:
        return refused(error.message)
    return answer(request, job_numbered(number), said=said)


def _open(job: Job, take: Take, _request: HttpRequest) -> str:
    opened = takes.open_take(job, take)
    return f"{take} opened. Undo goes back." if opened else f"This is {take} already."


def _pin(_job: Job, take: Take, _request: HttpRequest) -> str:
    takes.pin(take)
    return f"{take} pinned." if take.pinned else f"{take} unpinned."


def _name(_job: Job, take: Take, request: HttpRequest) -> str:
    takes.rename(take, request.POST.get("name", ""))
    return f"{take} is called {take.name}." if take.name else f"{take} has no name."


def _drop(_job: Job, take: Take, _request: HttpRequest) -> str:
    takes.drop(take)
    return f"{take} dropped."


_VERBS = {"open": _open, "pin": _pin, "name": _name, "drop": _drop}


@require_GET
@never_cache
def compare(request: HttpRequest, number: int) -> HttpResponse:
    """Lay the pinned takes side by side."""
    job = job_numbered(number)
    context = _compared(job)
    if len(context["panes"]) < 2:
        return refused("Pin at least one take to compare.")
    return render(request, "jobs/_partials/compare.html", context)


def _compared(job: Job, **forms: Any) -> dict[str, Any]:
    spec = writer.spec_of(job)
    found = takes.compared(job, spec)
    return {
        "job": job,
        "spec": spec,
        "between": forms.get("between") or BetweenForm(initial={"share": 50.0}),
        "strip": forms.get("strip") or StripForm(initial={"width": 20.0, "height": 15.0}),
        "panes": found.panes,
        "pair": found.pair,
    }


@require_POST
def between(request: HttpRequest, number: int) -> HttpResponse:
    """Make a take in between the two pinned ones."""
    job = job_numbered(number)
    form = BetweenForm(request.POST)
    pair = list(job.takes.filter(pinned=True)[:2])
    if len(pair) != 2:
        return refused("Pin two takes to make one in between.")
    if form.is_valid():
        try:
            share = form.cleaned_data["share"] / 100
            take = takes.make_between(job, pair[0], pair[1], share)
        except Error as error:
            return refused(error.message)
        return answer(
            request, job_numbered(number), said=f"{take} made, {take.name}. Undo goes back."
        )
    response = render(request, "jobs/_partials/compare.html", _compared(job, between=form))
    # A fault stands at its field; the stations, which a good answer brings, stay.
    response["HX-Retarget"] = "#panel"
    return response


@require_POST
def make_strip(request: HttpRequest, number: int) -> HttpResponse:
    """Open a ticket that burns a part of the pinned takes, or of all, on scrap."""
    job = job_numbered(number)
    form = StripForm(request.POST)
    if not form.is_valid():
        return render(request, "jobs/_partials/compare.html", _compared(job, strip=form))
    chosen = list(job.takes.filter(pinned=True)) or list(job.takes.all())
    try:
        ticket = strip.make_strip(job, chosen, form.part())
    except Error as error:
        return refused(error.message)
    response = HttpResponse(status=204)
    response["HX-Redirect"] = reverse("job", args=[ticket.number])
    return response


@require_GET
def piece(request: HttpRequest, number: int, pk: int, key: str) -> HttpResponse:
    """Return a take's piece, small."""
    spec = takes.take_spec(_take(job_numbered(number), pk))
    return (
        kept(pieces.piece_picture(spec, 160)) if pieces.piece_key(spec) == key else past()
    )
