"""Swatch cards: opened, read, and kept."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from workshop.jobs.cards import reading
from workshop.jobs.cards.form import NewCardForm
from workshop.jobs.cards.lines import note_lines
from workshop.jobs.cards.opening import last_used, open_card
from workshop.jobs.cards.wells import note_wells
from workshop.jobs.models import CardReading, Job
from workshop.jobs.pictures import pieces
from workshop.jobs.revisions import writer
from workshop.jobs.stations.card.choices import card_kinds
from workshop.jobs.views.answers import job_numbered
from workshop.shelf.models import Recipe
from workshop.shell.numbers import finite
from workshop.shell.services import Error

_FOLLOWS = ("gray-ramp",)
"""Cards that are burned by what another one found."""


def new_card(request: HttpRequest) -> HttpResponse:
    """Ask which card, or open its ticket."""
    first = {"kind": "power-speed", **last_used(), **request.GET.dict()}
    form = NewCardForm(request.POST or None, initial=first, label_suffix="")
    if request.method == "POST" and form.is_valid():
        try:
            job = open_card(**_asked(form.cleaned_data))
        except Error as error:
            form.add_error(None, error.message)
        else:
            return _at_its_check(job)
    context = {"form": form, "kinds": card_kinds()}
    return render(request, "jobs/new_card.html", context)


def _asked(data: dict[str, Any]) -> dict[str, Any]:
    return {name: data[name] for name in ("kind", "machine", "substrate", "recipe")}


def _at_its_check(job: Job) -> HttpResponse:
    """Go to a fresh card's ticket: it is set already, and wants but its check."""
    return redirect("station", number=job.number, station="check")


def card_job_numbered(number: int) -> Job:
    """Return the job of a ticket number that burns a card, or answer 404."""
    job = job_numbered(number)
    if writer.spec_of(job).card is None:
        raise Http404
    return job


def _latest(job: Job) -> CardReading | None:
    return job.readings.first()


@never_cache
def read_card(request: HttpRequest, number: int) -> HttpResponse:
    """Show what a card says, or read a photo of it."""
    job = card_job_numbered(number)
    fault = ""
    if request.method == "POST":
        try:
            _read(request, job)
        except (Error, ValueError) as error:
            fault = getattr(error, "message", "") or "The four corners cannot be read."
        else:
            return redirect("read_card", number=number)
    return card_page(request, job, fault)


def card_page(request: HttpRequest, job: Job, fault: str = "") -> HttpResponse:
    """Render the reading page."""
    context: dict[str, Any] = reading.reading_page(
        job, _latest(job), request.GET.get("cell", ""), request.POST if fault else {}
    )
    context["key"] = pieces.piece_key(context["spec"])
    context |= {"fault": fault, "said": request.GET.get("said", "")}
    return render(request, "jobs/card.html", context, status=422 if fault else 200)


def _read(request: HttpRequest, job: Job) -> None:
    latest = _latest(job)
    if request.POST.get("again") and latest:
        corners = [
            (finite(x), finite(y))
            for x, y in (
                pair.split(",") for pair in request.POST.get("corners", "").split()
            )
        ]
        reading.read_card(job, latest.photo, corners)
        return
    upload = request.FILES.get("photo")
    if upload is None:
        raise Error("Choose a photo first.")
    reading.read_card(job, reading.keep_photo(upload.read()))


@require_POST
def keep_card(request: HttpRequest, number: int) -> HttpResponse:
    """Put what a card says on the shelf."""
    job = card_job_numbered(number)
    latest = _latest(job)
    try:
        if request.POST.get("wells"):
            note_wells(job, request.POST)
            return redirect("read_card", number=number)
        if request.POST.get("lines"):
            note_lines(job, request.POST)
            return redirect("read_card", number=number)
        if request.POST.get("machine"):
            picked = request.POST.get("cells", "").split()
            found = latest or CardReading(job=job, spec=job.spec_data)
            said = reading.save_on_machine(job, found, picked)
            return redirect(f"{reverse('read_card', args=[number])}?said={said}")
        name = " ".join(request.POST.get("name", "").split())[:100]
        recipe = reading.save_as_recipe(job, latest, name, request.POST.get("cell", ""))
    except Error as error:
        return card_page(request, job, error.message)
    if (then := request.POST.get("then", "")) in _FOLLOWS:
        return _opened_next(request, job, then, recipe)
    return redirect("recipe", pk=recipe.pk)


def _opened_next(request: HttpRequest, job: Job, kind: str, recipe: Recipe) -> HttpResponse:
    """Open the card that follows from what another one said."""
    try:
        following = open_card(kind, recipe.machine, recipe.substrate, recipe)
    except Error as error:
        return card_page(request, job, error.message)
    return _at_its_check(following)


@require_GET
def photo(request: HttpRequest, number: int) -> HttpResponse:
    """Return the newest photo of a card."""
    latest = _latest(card_job_numbered(number))
    if latest is None:
        raise Http404
    return HttpResponse(reading.photo_picture(latest), content_type="image/jpeg")


@require_GET
def flat(request: HttpRequest, number: int) -> HttpResponse:
    """Return the newest photo of a card, squared and evenly lit."""
    latest = _latest(card_job_numbered(number))
    picture = reading.flat_picture(latest) if latest else b""
    if not picture:
        raise Http404
    return HttpResponse(picture, content_type="image/png")
