"""Pictures that the stand-in cameras take."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from workshop.bench.camera.bed import photograph_bed as bed_photo
from workshop.bench.camera.card import photograph as card_photo
from workshop.bench.runs.start import CannotBurnError
from workshop.jobs.cards import reading
from workshop.jobs.views import camera
from workshop.jobs.views.answers import job_numbered, refused
from workshop.jobs.views.cards import card_job_numbered, card_page


@require_POST
def photograph(request: HttpRequest, number: int) -> HttpResponse:
    """Let the stand-in camera take a picture of a card, and read it."""
    job = card_job_numbered(number)
    try:
        key = reading.keep_photo(card_photo(job))
    except CannotBurnError as error:
        return card_page(request, job, str(error))
    reading.read_card(job, key)
    return redirect("read_card", number=number)


@require_POST
def photograph_bed(request: HttpRequest, number: int, what: str) -> HttpResponse:
    """Let the stand-in camera take a picture of the bed, and use it."""
    job = job_numbered(number)
    try:
        data = bed_photo(job, what)
    except CannotBurnError as error:
        return refused(str(error))
    return camera.taken(request, job, what, lambda: data)
